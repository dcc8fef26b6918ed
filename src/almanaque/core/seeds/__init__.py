"""Seed and planting stock. Lots, germination counts and plans come in; age, an interval for the germination, what
to sow and what to buy come out.

Begin with `seed_lots`; `seed_saving` says which plantings can give seed, `planting_stock` how much of a harvest to keep back.
"""
