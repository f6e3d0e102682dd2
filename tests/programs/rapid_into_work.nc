; Z -3 5
; X 0 10
; codes rapid_low
G21 G90
G0 X0 Z5
Z-3
X10
