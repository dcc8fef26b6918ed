"""Who can log in to the demo; read at every start, so it brings nothing else with it."""

from dataclasses import dataclass

from almanaque.demo import schools, shapes

PASSWORD = "soup-day-2026"  # noqa: S105 - printed by the demo for everyone to use


@dataclass(frozen=True)
class Login:
    login: str
    name: str
    about: str
    roles: tuple[tuple[shapes.DemoSchool, str], ...]


LOGINS = (
    Login(
        "coordinator", "Oda Fennel", "plans, and changes calendar and people", ((schools.BRINDLECOMBE, "coordinator"),)
    ),
    Login(
        "educator",
        "Ivo Tarn",
        "plans and logs, in two schools",
        ((schools.BRINDLECOMBE, "educator"), (schools.TALLOWBANK, "coordinator")),
    ),
    Login("helper", "Runa Oakes", "ticks jobs off, writes notes, logs pickings", ((schools.BRINDLECOMBE, "helper"),)),
    Login("viewer", "Pell Marsh", "looks only", ((schools.BRINDLECOMBE, "viewer"),)),
)
