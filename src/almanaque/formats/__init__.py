"""Open formats in and out. Values and rows go in, text comes out; nothing here knows a page or a database.

`text_file` reads bytes as text, `csv_table` writes tables; the packages hold the files of one subject.
"""

import almanaque.formats.words  # noqa: F401  the words of this floor's codes
