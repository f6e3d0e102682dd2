; fits no
; codes speed_low
; spindle 2
G21
S50 M3
