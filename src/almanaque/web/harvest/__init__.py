"""The pages of Harvest: the picking form, kept pickings, the book in all its ways, the ledger and the season report.

Begin with `picking_form`, then `harvest_book`.
"""
