"""The pages of Year: beds by weeks, the sowing finder, what to sow, promised beds, themes and bloom.

Begin with `year_chart` and `sowing_finder`; each has its drawing beside it.
"""
