; fits no
; X 200 400
; beyond X high 100 9 1
; shift X -100
; codes other_mode
G21 G90
G0 X200
G91
X200
