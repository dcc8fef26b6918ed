"""The year's plan. Plantings and their dates come in; steps with windows, successions, promises, themes and what fits a space come out.

Begin with `steps`, from which jobs follow; `shortlist` is what fits a space and what to sow now.
`next_season_map` proposes where families move to; `bed_promises` and `themes` bind several plantings to one day.
"""
