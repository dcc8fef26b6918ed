"""The seed box at work: lots, tests, trays and saving seed; and what plans ask for.

What there is comes in from `store.seeds`, what is planned from `store.garden`. Begin with `seed_box`; `what_to_buy` holds the plans
against it.
"""
