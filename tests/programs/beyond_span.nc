; fits no
; X -5 310
; beyond X low 5 6 2, X high 10 7 1
; shift none
G21 G90
G0 X-5
X310
