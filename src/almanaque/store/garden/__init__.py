"""Sites, beds, plantings and what else is on the ground, with soil, shed, drafts and the history of changes.

Begin with `garden` (beds and plantings), then `site_features` and `changes`, which undo reads.
"""
