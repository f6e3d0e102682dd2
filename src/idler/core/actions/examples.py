"""Actions that are of use on most machines, to be taken and changed."""

from __future__ import annotations

EXAMPLES: dict[str, str] = {
    "move off the switches": """action "move off the switches" on homed {
  move by Z -5 mm;
  move by X -5 mm Y -5 mm;
}
""",
    "park and power off": """action "park and power off" {
  move machine Z park;
  move machine X park Y park;
  power off;
}
""",
    "measure tool length on a plate": """action "measure tool length on a plate" {
  ask "Does the plate lie where Z is zero, under the tool, with its clip on the tool?" {
    probe Z -40 mm at 60 mm/min;
    length asked 10 mm;
    move by Z 5 mm;
  }
}
""",
    "warm up the spindle": """action "warm up the spindle" {
  ask "Is the guard closed, and no tool long enough to hum?" {
    spindle right 3000 rpm;
    dwell 60 s;
    spindle right 8000 rpm;
    dwell 60 s;
    spindle off;
  }
}
""",
    "change the tool by hand": """action "change the tool by hand" on tool change {
  spindle off;
  move machine Z park;
  ask "Is the new tool in?" {
    say "Measure its length.";
  }
}
""",
}
