; machine lathe
; X 10 20
; Z -20 0
; spindle 0
G21 G90
G0 X40 Z0
G1 X20 Z-20 F100
