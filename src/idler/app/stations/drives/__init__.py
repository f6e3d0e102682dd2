"""The Drives station: the train, the pace, the direction, the shape, and what is proven of them. One module for each page."""
