; fits no
; X 300 310
; Y 40 60
; beyond X high 10 9 1
; shift X -10
; codes spindle_off
G21 G90
G0 X300 Y60
G2 X300 Y40 J-10 F600
