"""Write tests/reference/data/crop-model-witness.csv: when a published crop model has crops reach their stages.

Development only. Run it with a Python that has DSSATTools 3.0.2 (GPL-3) and numpy, in which a static Linux program of the
model lies; nothing of it is shipped or imported by the application. It wants nothing from the network:

    python3 -m venv .venv-witness && .venv-witness/bin/pip install DSSATTools==3.0.2
    .venv-witness/bin/python tools/crop_witness.py

Three climates: Champion, Nebraska, and two made-up ones of tests/places.py. Water and nitrogen are not simulated, so that
nothing but temperature and daylength decides; sunshine is estimated from the day's range (Hargreaves).
"""

import csv
import math
import re
import sys
import tempfile
import warnings
from datetime import date, timedelta
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path[:0] = [str(ROOT), str(ROOT / "src")]
warnings.filterwarnings("ignore")

from DSSATTools import crop as crops  # noqa: E402
from DSSATTools.filex import Field, Harvest, Planting, SCGeneral, SCManagement, SCOptions, SimulationControls  # noqa: E402
from DSSATTools.run import DSSAT  # noqa: E402
from DSSATTools.soil import SoilLayer, SoilProfile  # noqa: E402
from DSSATTools.weather import WeatherRecord, WeatherStation  # noqa: E402
from tests.places import made  # noqa: E402

OUT = ROOT / "tests/reference/data/crop-model-witness.csv"
FIRST_YEAR, YEARS = 1992, 8
# Of each crop: the model's class and cultivar, plants to the square metre, depth [cm], and what the stages are called there.
CROPS = {
    "bush-bean": ("DryBean", "IB0003", 20, 4, ("First Flwr", "First Pod", "First Seed", "Phys. Mat")),
    "soybean": ("Soybean", "UC0001", 30, 4, ("First Flwr", "First Pod", "First Seed", "End Pod", "Phys. Mat")),
    "sunflower": ("Sunflower", "IB0013", 6, 4, ("1st Flw/Sd", "Phys. Mat")),
    "tomato": ("Tomato", "TM0001", 2, 2, ("First Flwr", "First Pod", "First Seed", "Phys. Mat")),
    "cabbage": ("Cabbage", "990001", 5, 2, ("First Flwr", "Phys. Mat")),
    "sweet-corn": ("SweetCorn", "SW0001", 7, 4, ("75% Silkin", "Beg Gr Fil", "Maturity")),
    "winter-wheat": ("Wheat", "IB0488", 250, 4, ("Term Spklt", "Beg Gr Fil", "End Gr Fil")),
    "potato": ("Potato", "IB0003", 4, 8, ("Beg Tuber",)),
}
SOWN = {
    "continental": {
        "winter-wheat": ("09-20",),
        "potato": ("04-15", "05-10"),
        "cabbage": ("04-25",),
        "": ("05-15", "06-10"),
    },
    "cool-maritime": {
        "winter-wheat": ("10-05",),
        "potato": ("04-10", "05-05"),
        "cabbage": ("04-25",),
        "": ("05-15", "06-05"),
    },
    "humid-subtropical": {
        "winter-wheat": ("11-15",),
        "potato": ("02-05",),
        "cabbage": ("10-01",),
        "": ("03-25", "05-01"),
    },
}


def weather(climate: str) -> tuple[list[tuple[date, float, float]], float]:
    """Least and greatest temperature of each day, and the latitude."""
    if climate == "continental":
        path = ROOT / "tests/reference/data/champion-nebraska-1982-2018.csv"
        rows = csv.DictReader(path.open(encoding="utf-8"))
        found, before = [], (0.0, 10.0)
        for row in rows:
            before = (float(row["tmin_c"] or before[0]), float(row["tmax_c"] or before[1]))
            found.append((date.fromisoformat(row["date"]), *before))
        return found, 40.4
    wanted = {"cool-maritime": (10.5, 5.5, 57.0), "humid-subtropical": (20.0, 8.5, 31.0)}[climate]
    record = made(mean_c=wanted[0], swing_c=wanted[1], latitude=wanted[2]).climate
    days = [record.first_day + timedelta(days=n) for n in range(len(record.tmin_c))]
    return [(d, float(a), float(b)) for d, a, b in zip(days, record.tmin_c, record.tmax_c, strict=True)], wanted[2]


def sunshine(latitude: float, day: date, span_c: float) -> float:
    """MJ/m² of a day, from its range of temperature: 0.17 √range of what falls on the atmosphere (FAO-56, equations 21, 50)."""
    phi, j = math.radians(latitude), day.timetuple().tm_yday
    delta, near = 0.409 * math.sin(2 * math.pi * j / 365 - 1.39), 1 + 0.033 * math.cos(2 * math.pi * j / 365)
    sunset = math.acos(max(-1.0, min(1.0, -math.tan(phi) * math.tan(delta))))
    above = (
        37.586 * near * (sunset * math.sin(phi) * math.sin(delta) + math.cos(phi) * math.cos(delta) * math.sin(sunset))
    )
    return max(1.0, 0.17 * math.sqrt(max(0.5, span_c)) * above)


def station(days: list[tuple[date, float, float]], latitude: float, first: date, last: date) -> WeatherStation:
    table = [
        WeatherRecord(
            date=d,
            tmin=round(a, 1),
            tmax=round(max(b, a + 0.5), 1),
            rain=0.0,
            srad=round(sunshine(latitude, d, b - a), 1),
        )
        for d, a, b in days
        if first <= d <= last
    ]
    return WeatherStation(table, lat=latitude, long=0.0, elev=100, insi="ALMA")


def soil() -> SoilProfile:
    depths = ((5, 1.0), (15, 1.0), (30, 0.8), (60, 0.5), (100, 0.3), (150, 0.1))
    layers = [
        SoilLayer(
            slb=b,
            slll=0.10,
            sdul=0.26,
            ssat=0.42,
            srgf=g,
            sbdm=1.3,
            sloc=1.5,
            ssks=2.0,
            slcl=20,
            slsi=40,
            slni=0.1,
            slhw=6.8,
        )
        for b, g in depths
    ]
    return SoilProfile(
        table=layers,
        name="ALMA000001",
        salb=0.13,
        slu1=6,
        sldr=0.4,
        slro=70,
        slnf=1,
        slpf=1,
        soil_data_source="made up",
        soil_clasification="L",
    )


def stages(overview: str) -> dict[str, int]:
    """Days after sowing of each stage that the model's overview lists."""
    found: dict[str, int] = {}
    table = overview.split("DEVELOPMENT STAGES", 1)[-1].split("*MAIN GROWTH", 1)[0]
    for line in table.splitlines():
        # Two ways to write it: `29 MAY    9 Emergence`, and of wheat `1994158   7 Jun 260 4 Beg Gr Fil`.
        plain = re.match(r" *(\d+) ([A-Z]{3}) +(\d+) (.{11})", line)
        wheat = re.match(r" *\d{7} +\d+ \w+ +(\d+) \d+ (.{10})", line)
        if plain:
            found.setdefault(plain[4].strip(), int(plain[3]))
        elif wheat:
            found.setdefault(wheat[2].strip(), int(wheat[1]))
    return found


def main() -> None:
    ground, lines = soil(), []
    for climate, plans in SOWN.items():
        days, latitude = weather(climate)
        for crop, (kind, cultivar, plants, depth, wanted) in CROPS.items():
            for month_day in plans.get(crop, plans[""]):
                for year in range(FIRST_YEAR, FIRST_YEAR + YEARS):
                    sown = date.fromisoformat(f"{year}-{month_day}")
                    first, last = sown - timedelta(days=30), sown + timedelta(days=330)
                    field = Field(
                        id_field="ALMA0001",
                        wsta=station(days, latitude, first, last),
                        flob=0,
                        fldd=0,
                        flds=0,
                        id_soil=ground,
                        fldt="DR000",
                    )
                    control = SimulationControls(
                        general=SCGeneral(sdate=first + timedelta(days=2)),
                        options=SCOptions(water="N", nitro="N"),
                        management=SCManagement(irrig="N", ferti="N", harvs="R" if crop == "potato" else "A"),
                    )
                    more = {"plwt": 1500, "sprl": 2.0} if crop == "potato" else {}
                    harvest = Harvest(hdate=sown + timedelta(days=140)) if crop == "potato" else None
                    planting = Planting(pdate=sown, ppop=plants, ppoe=plants, plrs=45, pldp=depth, **more)
                    with tempfile.TemporaryDirectory() as folder:
                        model = DSSAT(folder)
                        try:
                            model.run_treatment(
                                field=field,
                                cultivar=getattr(crops, kind)(cultivar),
                                planting=planting,
                                harvest=harvest,
                                simulation_controls=control,
                                verbose=False,
                            )
                            found = stages(model.output_files.get("OVERVIEW", ""))
                        except Exception as error:
                            print(climate, crop, sown, "failed", str(error)[-60:], file=sys.stderr)
                            continue
                    lines += [
                        (climate, crop, sown.isoformat(), name, found[name])
                        for name in ("Emergence", *wanted)
                        if name in found
                    ]
            print(climate, crop, [line[3:] for line in lines[-5:]], file=sys.stderr)
    with OUT.open("w", newline="", encoding="utf-8") as out:
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(("climate", "crop", "sown", "stage", "days_after_sowing"))
        writer.writerows(lines)


if __name__ == "__main__":
    main()
