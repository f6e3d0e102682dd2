"""Idler in another language: what it says is gathered from its own sources by subject, and a translation speaks in its place.

Every sentence stands where it is made, in English (`docs/decisions/069`). `sentences` finds it there, `catalogue` keeps what a
translator makes of it (gettext's PO files, one for each subject), and `spoken` puts that into the modules as they are loaded.
"""
