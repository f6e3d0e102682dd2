"""The Qt application: shell, stations, pictures. The session is the one seam to core, link and shelf.

Rules about machines belong in core; nothing here imports the bench.
"""
