; X 0 0
; dwell 2.5
; time 2.5
G21 G90
G0 X0
G4 P2.5
