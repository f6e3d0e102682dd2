"""The rows of the table of parameters, by what they belong to. `idler.core.table` puts them together."""
