"""Pickings kept, changed and taken back, and the book that adds them up.

Begin with `pickings`; `harvest_book` reads everything once and keeps it while nothing changes.
"""
