; fits no
; X 254 508
; beyond X high 208 8 1
; shift X -208
; codes other_unit
G20 G90
G0 X10
X20
