"""What a controller and its client agree on: objects, raw values, state words, EDS. All of it follows from the table."""
