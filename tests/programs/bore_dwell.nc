; Z -5 5
; dwell 0.5
; codes spindle_off
G21 G90
G0 Z5
G89 Z-5 R2 P0.5 F300
G80
