; X 1 9.123456
; codes many_decimals
G21 G90
G0 X1
X9.123456
