"""The Tidepool Band: sea creatures that play instruments. All names and data are invented."""
