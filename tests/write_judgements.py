"""Write down every refusal and judgement that the core's tests bring about: `python -m tests.write_judgements`."""

import sys

import pytest

from tests.contracts import WRITTEN, judgements


def main() -> int:
    judgements.recorded = set()
    failed = pytest.main(["-q", "-p", "no:cacheprovider", "tests/core"])
    if not failed:
        WRITTEN.write_text("".join(f"{line}\n" for line in sorted(judgements.recorded)), encoding="utf-8")
        print(f"{len(judgements.recorded)} lines in {WRITTEN.name}")
    return int(failed)


if __name__ == "__main__":
    sys.exit(main())
