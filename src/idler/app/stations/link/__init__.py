"""Link: finding a controller, and what it says of itself."""
