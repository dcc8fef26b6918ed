"""The rules of the job, pure and typed: values in, values out; no clock, no files, no database, no page.

Read `units`, `crops` and `bed` first, then `spacing` (where plants stand), `school_year` (when children are here),
`climate`, `growth` and `fit` (dates and verdict), `standing` (what is in the way), `tasks` (the jobs that follow) and `yields` (what it gave).
Every judgement is a `findings.Finding`.
"""
