"""What was written down and seen: notes, sightings, photos, letters, signs, and what phones have sent.

Begin with `journal_entries` and `sightings`; `phone_entries` takes each entry of a phone once, `timeline` reads
all of them as one line of time.
"""
