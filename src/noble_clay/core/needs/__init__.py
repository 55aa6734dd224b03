"""What a piece joined from parts still needs, kind by kind, each with the edits of its recipe that would mend it."""
