"""Open formats in and out. Values and rows go in, text comes out; nothing here knows a page or a database."""
