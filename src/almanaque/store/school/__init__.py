"""The school's own rows: years, terms, classes, partners, project plans, the turn of the year, and a whole school in one piece.

Begin with `school`; `whole_school` reads and writes every table for the bundle, `uploads` keeps files until somebody confirms them.
"""
