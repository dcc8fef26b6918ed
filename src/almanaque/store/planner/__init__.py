"""Seasons that are planned: what was asked and wished for, what somebody decided, what was proposed.

Rows go in and come out as the dataclasses of `season_plans`. Begin reading there.
"""
