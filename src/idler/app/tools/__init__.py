"""Dialogs and windows of their own: machines, keys, exchange, reports, the wire; and the commands of the menu."""
