"""The seed box at work: lots, tests, what plans ask for, what to buy, and trays.

One module, `seed_box`.
"""
