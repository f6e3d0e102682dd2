; X 0 5
; codes unit_unstated
G90
G0 X0
X5
