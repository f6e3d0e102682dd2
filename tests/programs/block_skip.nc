; X 1 9
; codes block_skip
G21 G90
G0 X1
/X9
