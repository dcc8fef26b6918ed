"""The most memory of a process that weighs the whole catalogue over 37 years, for `./almanaque bench`. Imports the core alone."""

from datetime import date, timedelta
from pathlib import Path

from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.data import catalogue
from tests.places import CALENDAR, made


def main() -> None:
    """Weigh it and print the high-water mark of this process [MB]."""
    record = made(mean_c=11.0, swing_c=12.4, latitude=42.9, years=37)
    days = [date(2026, 8, 26) + timedelta(days=n) for n in range(365)]
    for crop in catalogue():
        for method in crop.methods:
            weigh(crop, method, days, Setting(CALENDAR, record, "us"))
    status = Path("/proc/self/status").read_text(encoding="ascii")
    print(round(int(status.split("VmHWM:")[1].split()[0]) / 1024))


if __name__ == "__main__":
    main()
