; X 10 20
; Z -5 10
; codes spindle_off
; last Z 2
G21 G90
G0 X10 Z10
G99 G81 Z-5 R2 F300
X20
