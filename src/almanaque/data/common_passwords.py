"""Passwords that many people use: 19,000 of six characters and more, in small letters.

**Source:** a list of the 20,000 most common passwords in known leaks, made by Royce Williams, as Django 5.2 ships it (BSD).
Shorter ones are left out, since a password of ours is longer with its ending than the rules take off.
"""

import gzip
from functools import cache
from importlib.resources import files


@cache
def common_passwords() -> frozenset[str]:
    packed = files("almanaque.data").joinpath("common_passwords.txt.gz").read_bytes()
    return frozenset(gzip.decompress(packed).decode("utf-8").split("\n")) - {""}
