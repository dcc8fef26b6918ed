"""Where mail goes in the demo: a folder of .eml files, behind the same call that a mail server would answer."""

import re
from email.message import EmailMessage
from pathlib import Path


class Outbox:
    """Takes messages and keeps each as a file that any mail program opens."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def send(self, message: EmailMessage) -> None:
        """Hand a message over. Raises OSError when it cannot be kept."""
        self.folder.mkdir(parents=True, exist_ok=True)
        name = re.sub(r"[^A-Za-z0-9-]", "", str(message["Message-ID"]).partition("@")[0])[:60]
        (self.folder / f"{name}.eml").write_bytes(bytes(message))
