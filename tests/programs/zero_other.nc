; codes other_zero
; X 5 5
G21 G90 G55
G0 X5
