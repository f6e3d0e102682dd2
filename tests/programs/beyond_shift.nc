; fits no
; X 290 310
; beyond X high 10 7 1
; shift X -10
G21 G90
G0 X290
X310
