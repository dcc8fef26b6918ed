"""Drawings as plain values: places in pixels or percent and finished labels. Templates turn them into SVG, unchanged."""
