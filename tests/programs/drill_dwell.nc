; Z -5 5
; dwell 1
; codes spindle_off
G21 G90
G0 Z5
G82 Z-5 R2 P1 F300
G80
