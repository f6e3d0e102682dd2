; X 0 10
; Z -40 -20
; codes spindle_off rapid_low
G21 G90 G18
G0 X0 Z-40
G2 X0 Z-20 K10 F600
