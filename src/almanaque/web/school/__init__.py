"""The pages of School: calendar, classes, partners, project plans, ballots, the turn of the year and open formats.

Begin with `calendar`; what comes as a file has a preview before it is kept.
"""
