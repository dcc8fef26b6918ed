"""The pages of Seeds: what the plans ask for, the seed box with its lots, and trays.

Begin with `seeds_to_have`, then `seed_lots`.
"""
