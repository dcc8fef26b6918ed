"""The seed box: lots, what was taken from them, germination tests and trays.

One module, `seed_box`.
"""
