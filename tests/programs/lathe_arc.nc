; machine lathe
; X 5 10
; Z -5 0
G21 G90 G18
G0 X10 Z0
G3 X20 Z-5 R5 F100
