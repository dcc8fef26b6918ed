"""The school's files: its calendar as table and iCalendar, earlier years as a table, and a whole school as one bundle.

Begin with `school_bundle`, which docs/bundle.md describes.
"""
