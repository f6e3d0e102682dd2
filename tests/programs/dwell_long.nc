; dwell 500
; codes long_dwell
G21
G4 P500
