"""`python -m tests.campaign [kill|race|load|hostile|fuzz|restore|phone|launch] --seconds N`"""

import argparse
import sys

from tests.campaign import fuzz, hostile, kill, launch, load, phone, race, restore

TRIALS = {
    "kill": kill.run,
    "race": race.run,
    "load": load.run,
    "hostile": hostile.run,
    "fuzz": fuzz.run,
    "restore": restore.run,
    "phone": phone.run,
    "launch": launch.run,
}


def main() -> int:
    parser = argparse.ArgumentParser(prog="almanaque campaign", description="Long trials of the whole application.")
    parser.add_argument("trial", nargs="?", choices=sorted(TRIALS), help="one of them; all if left out")
    parser.add_argument("--seconds", type=float, default=20, help="how long each of its parts goes on")
    given = parser.parse_args()
    for name in [given.trial] if given.trial else sorted(TRIALS):
        print(TRIALS[name](given.seconds), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
