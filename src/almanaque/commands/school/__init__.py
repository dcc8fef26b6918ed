"""What is done to the school as a whole: its calendar, project plans, the turn of the year, the bundle, and years
brought in from a spreadsheet.

Begin with `calendar`, after which every forecast is due again; `turn_of_year` is the last page of a year.
"""
