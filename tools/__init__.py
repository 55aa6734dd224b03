"""What ./start and ./test do once Python is there: database, front end, browser, running and checking."""
