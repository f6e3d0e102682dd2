"""Values: units and exact numbers, the grammar of what is typed, what a row of the table is."""
