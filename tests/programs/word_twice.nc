; fits no
; codes word_twice
G21 G90
G0 X1 X2
