"""Pages. A route reads, lets a command or a core rule compute, and hands finished values to a template.

`app` puts everything together and `routes` lists the pages, `security` guards every request, `request_scope` opens the
visitor's school for one of them, `frame` draws what every page shares. A package holds the pages of one subject with
their drawings; drawings that several share are in `pictures`.
"""

import almanaque.web.words  # noqa: F401  the words of this floor's codes
