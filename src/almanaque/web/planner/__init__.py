"""The pages of “Plan a season”: the wish list with its limits, the plans made of it side by side, one plan on the map.

Kept plans come in from `commands.planner`; `season_plan` is the page with the wishes, `season_proposal` the one with the map.
"""
