"""The tour through the real interface: hands, the steps of each part, and the walk that strings them together."""
