"""The rules of the job, pure and typed: values in, values out; no clock, no files, no database, no page.

Read `units`, `crops.crop` and `garden.bed` first, then `garden.spacing` (where plants stand), `school.school_year` (when
children are here), `growth.crop_runs` and `growth.school_fit` (dates and verdict), `week.jobs` (the jobs that follow) and
`harvest.yields` (what it gave). Every judgement is a `findings.Finding`.
"""
