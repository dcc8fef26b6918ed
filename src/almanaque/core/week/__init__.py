"""The work of a week. Steps, lessons, weather and people come in; jobs in lessons, water by the bed, carers'
rounds and planting days come out.

Begin with `jobs` and `job_matching` (who does what when), then `planting_day` for one lesson at a bed.
`water` reckons what to give; `weather_notes` and `weather_alarms` say what the weather means for what stands there.
"""
