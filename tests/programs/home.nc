; zero X=100
; X 0 110
; Z 0 10
; codes unknown_home
G21 G90
G0 X10 Z5
G28 Z10
G28 X10
