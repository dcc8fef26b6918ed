"""Parts of a page that the browser has already: an answer names them by their digest and leaves out what is in them.

A template marks a part with `{% call part('li', 'line-7') %}…{% endcall %}`. The browser sends the digests of the parts it shows, and
puts those that come back empty where they were; so a stroke on a bed of a thousand plants costs the few squares it changes.
"""

import hashlib
import re
from collections.abc import Callable

from fastapi import Request
from markupsafe import Markup

HEADER = "X-Known"
MOST_KNOWN = 4000  # digests; more are not looked at, and their parts come in full
DIGEST = re.compile(r"[0-9a-f]{12}")
ONCE = re.compile(r'(name="once" value=")[^"]*')  # a form's number is new in each drawing and no other content


def known_to(request: Request) -> frozenset[str]:
    """The digests that a browser says it shows."""
    return frozenset(DIGEST.findall(request.headers.get(HEADER, ""))[:MOST_KNOWN])


def parts(known: frozenset[str]) -> Callable[..., Markup]:
    """The function that templates call for a part: its tag, its name on the page, and its attributes (`aria_label` is `aria-label`)."""

    def part(tag: str, name: str, *, caller: Callable[[], Markup], **attributes: object) -> Markup:
        content = caller()
        said = Markup("").join(
            Markup(' {}="{}"').format(key.replace("_", "-"), value) for key, value in attributes.items()
        )
        compared = ONCE.sub(r"\1", f"{tag} {name}{said}>{content}")
        digest = hashlib.blake2s(compared.encode(), digest_size=6).hexdigest()
        head = Markup('<{} data-part="{}" data-digest="{}"').format(tag, name, digest)
        end = Markup("</{}>").format(tag)
        return head + Markup(" data-same>") + end if digest in known else head + said + Markup(">") + content + end

    return part
