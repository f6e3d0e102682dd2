"""The main window, and what stands around a station: header, train, margin, notice, rails, menu."""
