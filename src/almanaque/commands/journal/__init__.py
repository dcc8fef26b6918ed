"""What a walk through the garden does: answers kept, notes and photos, letters, and what a phone sends later.

Begin with `tour` and `tour_answers`; `phone` takes each entry once, whole or not at all.
"""
