"""What is done to beds and in them: drawn, moved, painted, inked, rubbed out, undone, started, finished.

Begin with `held_bed`, by which every command writes a bed; then `painting`, `plantings`, `undo` and `planting_events` (what
really happened). `bed_findings` gathers what the rules say of a bed.
"""
