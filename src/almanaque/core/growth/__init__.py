"""How a crop grows in the weather on file. A crop, a way of starting and a record come in; dates, ranges over the
years and a verdict against the school year come out.

Begin with `conditions` (what a plant feels, day by day), then `crop_runs` (what becomes of a crop sown on any
day), `years_on_file` and `sowing_days` (many days weighed in a `setting`) and `school_fit` (the verdict).
`season_to_date` and `observed_stages` go on from what has happened; `growth_dates` is the answer without weather, by packet days.
"""
