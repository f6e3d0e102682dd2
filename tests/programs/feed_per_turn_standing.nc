; machine lathe
; zero X=20,Z=0
; fits no
; codes no_turns
; says a feed per turn with a spindle that was given no speed: it would be gone along at the pace of a rapid.
G21 G90 G95
G0 X20 Z5
G1 Z1 F0.2
M30
