; Z -9 5
; codes spindle_off
; moves 11
G21 G90
G0 Z5
G83 Z-9 R1 Q4 F300
G80
