"""Small pieces that views are built from: cards, fields of the table, buttons that move the machine."""
