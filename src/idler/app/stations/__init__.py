"""One module for each station of the train."""
