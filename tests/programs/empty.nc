; lines 1
