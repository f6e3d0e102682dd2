; X 1 1
; codes after_end
G21 G90
G0 X1
M30
X500
