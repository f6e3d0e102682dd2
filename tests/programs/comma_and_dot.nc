; X 1.5 9.5
; codes dot_and_comma
G21 G90
G0 X1,5
X9.5
