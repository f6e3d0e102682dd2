; fits no
; codes speed_high
; spindle 2
G21
S9000 M3
