"""The pages on place, climate and weather, the weather stations, and choosing a site.

Begin with `climate` and its drawing `climate_picture`.
"""
