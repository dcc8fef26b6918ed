"""Steps set by hand, covers, sowings that follow one another, and what fits the empty spaces of beds.

Begin with `schedule`; `shortlist` gathers the spaces and asks the core.
"""
