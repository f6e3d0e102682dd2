; X 10 40
; Z -8 5
; codes spindle_off
G21 G90
G0 X10 Z5
G91 G81 X10 Z-10 R-3 L3 F300
