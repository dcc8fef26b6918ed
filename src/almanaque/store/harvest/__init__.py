"""Pickings with their uses, the ledger, and tastings.

Begin with `pickings`: amounts as they were noted, weights beside them.
"""
