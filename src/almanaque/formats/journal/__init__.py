"""Photos: measured before they are decoded, and given out as plain JPEG without what the camera wrote.

One module, `photo`.
"""
