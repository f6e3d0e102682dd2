"""The bus below all controllers: addresses, adapters, and what went over the wire."""
