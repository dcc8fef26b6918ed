"""What binds several plantings: beds promised from a day on, and themes with their parts.

One module, `promises_and_themes`.
"""
