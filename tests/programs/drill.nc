; X 10 20
; Z -5 5
; codes spindle_off
G21 G90
G0 X10 Z5
G81 Z-5 R2 F300
X20
G80
