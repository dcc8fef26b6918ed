"""The pages of Garden: the site map, the bed sheet on which squares are painted, and everything about one bed or planting.

Begin with `bed_sheet`, with `paint_form` beside the drawing `bed_picture` and `sheet_parts` under it; `site_map`
and `edit_map` are the map, `map_page` what it shows, `feature_form` the numbers of what stands on it.
"""
