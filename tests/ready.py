"""Make the tests' database server and its templates ready while rules are being tested: `python -m tests.ready`, until its input ends."""

import sys

from tests.database import enter_cluster, leave_cluster


def main() -> int:
    enter_cluster()
    sys.stdin.read()
    leave_cluster()
    return 0


if __name__ == "__main__":
    sys.exit(main())
