; Z -5 5
; codes spindle_off
G21 G90
G0 Z5
G85 Z-5 R2 F300
G80
