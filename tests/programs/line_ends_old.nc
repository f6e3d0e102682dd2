; X 1 9
; lines 5
G21 G90G0 X1X9