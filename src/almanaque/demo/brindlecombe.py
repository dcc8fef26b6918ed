"""Brindlecombe School in the Ostrel Valley: invented, northern, feet and °F. Theme of the year: soup day in November."""

from datetime import date, time

from almanaque.core.school.classes import Grades
from almanaque.core.school.school_year import SUMMER_PROGRAMME, HalfDay, Span
from almanaque.demo.shapes import (
    BedFact,
    DemoBed,
    DemoCrop,
    DemoDraft,
    DemoFeature,
    DemoGroup,
    DemoPartner,
    DemoProject,
    DemoPromise,
    DemoSchool,
    DemoSighting,
    DemoStation,
    DemoSupply,
    DemoTheme,
    Note,
    PlaceScores,
    Year,
)
from almanaque.standins.weather import SimulatedPlace


def _d(text: str) -> date:
    return date.fromisoformat(text)


def _span(name: str, starts: str, ends: str, kind: str = "") -> Span:
    return Span(name, _d(starts), _d(ends), kind)


YEARS = (
    Year(
        "2024–25",
        _d("2024-08-28"),
        _d("2025-08-26"),
        (
            _span("Autumn term", "2024-08-28", "2024-12-20"),
            _span("Winter term", "2025-01-06", "2025-03-21"),
            _span("Spring term", "2025-03-31", "2025-06-13"),
        ),
        (
            _span("Leaf-fall break", "2024-11-25", "2024-11-29"),
            _span("Winter break", "2024-12-21", "2025-01-05"),
            _span("Staff day", "2025-02-14", "2025-02-14"),
            _span("Spring break", "2025-03-22", "2025-03-30"),
        ),
        (_span("Soup day", "2024-11-20", "2024-11-20"),),
    ),
    Year(
        "2025–26",
        _d("2025-08-27"),
        _d("2026-08-25"),
        (
            _span("Autumn term", "2025-08-27", "2025-12-18"),
            _span("Winter term", "2026-01-05", "2026-03-20"),
            _span("Spring term", "2026-03-30", "2026-06-12"),
        ),
        (
            _span("Leaf-fall break", "2025-11-24", "2025-11-28"),
            _span("Winter break", "2025-12-19", "2026-01-04"),
            _span("Staff day", "2026-02-13", "2026-02-13"),
            _span("Spring break", "2026-03-21", "2026-03-29"),
        ),
        (_span("Soup day", "2025-11-19", "2025-11-19"),),
    ),
    Year(
        "2026–27",
        _d("2026-08-26"),
        _d("2027-08-24"),
        (
            _span("Autumn term", "2026-08-26", "2026-12-18"),
            _span("Winter term", "2027-01-04", "2027-03-19"),
            _span("Spring term", "2027-03-29", "2027-06-16"),
        ),
        (
            _span("Leaf-fall break", "2026-11-23", "2026-11-27"),
            _span("Winter break", "2026-12-19", "2027-01-03"),
            _span("Staff day", "2027-02-12", "2027-02-12", "training day"),
            _span("Spring break", "2027-03-20", "2027-03-28"),
            _span("Valley fair", "2027-05-14", "2027-05-14"),
        ),
        (_span("Soup day", "2026-11-18", "2026-11-18"), _span("Last day of school", "2027-06-16", "2027-06-16")),
        (
            HalfDay("Parents' evening", _d("2026-10-21"), time(12, 0)),
            HalfDay("Last day before winter", _d("2026-12-18"), time(12, 0)),
            HalfDay("Parents' evening", _d("2027-04-28"), time(12, 0)),
            HalfDay("Last day of school", _d("2027-06-16"), time(11, 30)),
        ),
    ),
    Year(
        "2027–28",
        _d("2027-08-25"),
        _d("2028-08-22"),
        (
            _span("Autumn term", "2027-08-25", "2027-12-17"),
            _span("Winter term", "2028-01-03", "2028-03-17"),
            _span("Spring term", "2028-03-27", "2028-06-14"),
            _span("Summer garden weeks", "2028-06-26", "2028-07-14", SUMMER_PROGRAMME),
        ),
        (
            _span("Leaf-fall break", "2027-11-22", "2027-11-26"),
            _span("Winter break", "2027-12-18", "2028-01-02"),
            _span("Spring break", "2028-03-18", "2028-03-26"),
        ),
        (_span("Soup day", "2027-11-17", "2027-11-17"),),
    ),
)

GROUPS = (
    DemoGroup("Alders", 2021, 25, ((3, time(14, 0), 45),)),
    DemoGroup("Birches", 2022, 22, ((1, time(13, 10), 40),), teams=("The Moles", "The Wrens", "The Snails")),
    DemoGroup("Cedars", 2023, 24, ((4, time(9, 20), 45),), flags=(("must not eat", "strawberries"),)),
    DemoGroup(
        "Docks",
        2024,
        24,
        ((1, time(9, 40), 45),),
        flags=(("must not touch", "tomato leaves"),),
        teams=("Red barrow", "Blue barrow"),
    ),
    DemoGroup("Elders", 2025, 23, ((3, time(9, 40), 45),), flags=(("may not handle", "hammers"),)),
    DemoGroup(
        "Ferns", 2026, 18, ((2, time(10, 20), 30),), flags=(("may not handle", "knives"), ("may not handle", "hammers"))
    ),
    DemoGroup("Gentians", 2027, 20, ((2, time(10, 20), 30),)),
    DemoGroup(
        "Garden club",
        None,
        12,
        ((2, time(13, 30), 60),),
        kind="club",
        led_by="Garden educator",
        programme=((1, time(9, 30), 120),),
    ),
)

LEAFLESS = (1, 2, 3, 4, 11, 12)
FEATURES = (
    DemoFeature("building", "DemoSchool", "2 ft x 1 ft", "21 ft x 5 ft", height="14 ft"),
    DemoFeature("path", "Main path", "0 ft x 30 ft", "52 ft x 4 ft"),
    DemoFeature("path", "Middle path", "30 ft x 1 ft", "3 ft x 29 ft"),
    DemoFeature(
        "tree", "Old maple", "41 ft x 1 ft", "10 ft x 10 ft", height="36 ft", base="7 ft", months_bare=LEAFLESS
    ),
    DemoFeature(
        "tree",
        "Ash",
        "46 ft x 14 ft",
        "6 ft x 6 ft",
        height="30 ft",
        base="8 ft",
        months_bare=LEAFLESS,
        to_day=_d("2026-10-30"),
    ),
    DemoFeature(
        "building", "Tool shed", "44 ft x 21 ft", "6 ft x 4 ft", height="8 ft", turn=10, from_day=_d("2025-08-20")
    ),
    DemoFeature("gate", "Gate", "1 ft x 30 ft", "4 in x 4 ft"),
    DemoFeature("tap", "Tap", "28 ft x 27 ft", "1 ft x 1 ft", hose="30 ft"),
    DemoFeature("rain barrel", "Rain barrel", "24 ft x 2 ft", "2 ft x 2 ft", height="4 ft"),
    DemoFeature("compost", "Compost", "34 ft x 2 ft", "4 ft x 3 ft", height="3 ft 6 in"),
    DemoFeature("bench", "Bench", "27 ft x 19 ft", "1 ft 4 in x 4 ft"),
    DemoFeature(
        "tepee",
        "Bean tepee",
        "34 ft x 7 ft",
        "4 ft x 4 ft",
        height="7 ft",
        from_day=_d("2027-05-15"),
        to_day=_d("2027-10-10"),
    ),
)

BEDS = (
    DemoBed(
        "Bed 1", "Roots", "raised", "8 ft x 4 ft", "11 in", "3 ft x 9 ft", "larch boards", 2021, adopted_by="Birches"
    ),
    DemoBed(
        "Bed 2", "Leaves", "raised", "8 ft x 4 ft", "11 in", "14 ft x 9 ft", "larch boards", 2021, adopted_by="Docks"
    ),
    DemoBed(
        "Bed 3",
        "Mixed",
        "raised",
        "8 ft x 4 ft",
        "11 in",
        "3 ft x 16 ft",
        "larch boards",
        2021,
        adopted_by="Cedars",
        kept=(("Rosemary", "6 ft", "0 in", "2 ft", "2 ft"),),
    ),
    DemoBed(
        "Bed 4", "Summer", "raised", "6 ft x 4 ft", "14 in", "14 ft x 16 ft", "larch boards", 2023, adopted_by="Ferns"
    ),
    DemoBed(
        "Bed 5", "Soup", "raised", "8 ft x 3 ft", "11 in", "3 ft x 23 ft", "larch boards", 2021, adopted_by="Docks"
    ),
    DemoBed(
        "Bed 6",
        "Tomatoes",
        "raised",
        "12 ft x 4 ft",
        "14 in",
        "14 ft x 23 ft",
        "oak sleepers",
        2023,
        adopted_by="Alders",
        drip_l_h=60.0,
    ),
    DemoBed(
        "Bed 7", "Salad", "raised", "4 ft x 4 ft", "10 in", "37 ft x 13 ft", "larch boards", 2021, adopted_by="Elders"
    ),
    DemoBed(
        "Bed 8",
        "Berries",
        "raised",
        "6 ft x 3 ft",
        "10 in",
        "37 ft x 20 ft",
        "larch boards",
        2021,
        adopted_by="Garden club",
    ),
    DemoBed(
        "Half barrel",
        "Early salad",
        "container",
        "2 ft x 2 ft",
        "14 in",
        "25 ft x 10 ft",
        "oak",
        2024,
        adopted_by="Elders",
    ),
    DemoBed(
        "Trough", "Window salad", "container", "3 ft x 1 ft", "9 in", "25 ft x 16 ft", "zinc", 2024, adopted_by="Ferns"
    ),
    DemoBed(
        "Fence strip",
        "Climbers and bees",
        "ground",
        "16 ft x 2 ft",
        "12 in",
        "34 ft x 26 ft",
        "",
        None,
        adopted_by="Garden club",
    ),
    DemoBed(
        "Herb corner",
        "Herbs",
        "raised",
        "5 ft x 5 ft",
        "10 in",
        "45 ft x 13 ft",
        "larch boards",
        2026,
        adopted_by="Garden club",
        turn=15,
        corners=("0 ft x 0 ft", "5 ft x 0 ft", "5 ft x 5 ft", "3 ft x 5 ft", "3 ft x 2 ft", "0 ft x 2 ft"),
        sections=(("Tea herbs", "0 ft", "0 ft", "3 ft", "2 ft"), ("Kitchen herbs", "3 ft", "0 ft", "2 ft", "5 ft")),
    ),
    DemoBed(
        "Sill",
        "Trays",
        "sill",
        "6 ft x 1 ft",
        "3 in",
        "3 ft x 4 ft",
        "",
        None,
        adopted_by="Gentians",
        light_h=4.5,
        warmth_c=19.0,
    ),
)

PLANTINGS = (
    # 2024–25
    DemoCrop(
        "Bed 5",
        "kale",
        "starts",
        _d("2024-08-29"),
        "A1-D2",
        cleared=_d("2025-03-14"),
        group="Docks",
        pickings=(
            (_d("2024-10-22"), "3.1", "lb", "kitchen"),
            (_d("2024-11-19"), "4.6", "lb", "kitchen"),
            (_d("2025-03-06"), "2", "bunch", "taken home"),
        ),
    ),
    DemoCrop(
        "Bed 2",
        "spinach",
        "direct",
        _d("2024-09-03"),
        "A1-D2",
        cleared=_d("2024-12-05"),
        pickings=((_d("2024-10-17"), "1.4", "lb", "eaten in class"), (_d("2024-11-07"), "1.1", "lb", "kitchen")),
    ),
    DemoCrop(
        "Bed 1",
        "garlic",
        "cloves",
        _d("2024-10-08"),
        "A1-B4",
        cleared=_d("2025-06-12"),
        pickings=((_d("2025-06-11"), "68", "count", "taken home"),),
    ),
    DemoCrop(
        "Bed 4",
        "radish",
        "direct",
        _d("2025-04-03"),
        "A1-C2",
        cleared=_d("2025-05-16"),
        pickings=((_d("2025-05-06"), "44", "count", "eaten in class"), (_d("2025-05-13"), "2.6", "lb", "kitchen")),
    ),
    DemoCrop(
        "Bed 2",
        "pea",
        "direct",
        _d("2025-04-01"),
        "E1-H2",
        cleared=_d("2025-06-13"),
        pickings=((_d("2025-06-03"), "2", "pint", "eaten in class"), (_d("2025-06-10"), "3", "pint", "eaten in class")),
    ),
    DemoCrop(
        "Bed 5",
        "carrot",
        "direct",
        _d("2025-04-01"),
        "E1-H3",
        cleared=_d("2025-07-02"),
        pickings=((_d("2025-06-12"), "5.2", "lb", "eaten in class"),),
    ),
    DemoCrop(
        "Bed 7",
        "lettuce",
        "starts",
        _d("2025-04-08"),
        "A1-D2",
        cleared=_d("2025-06-06"),
        pickings=((_d("2025-05-15"), "6", "head", "kitchen"), (_d("2025-05-29"), "3.2", "lb", "kitchen")),
    ),
    DemoCrop(
        "Bed 6",
        "pumpkin",
        "direct",
        _d("2025-05-20"),
        "A1-F3",
        cleared=_d("2025-10-03"),
        pickings=((_d("2025-09-18"), "7", "count", "kitchen"), (_d("2025-10-02"), "19.5", "lb", "sold")),
    ),
    # 2025–26
    DemoCrop(
        "Bed 8",
        "strawberry",
        "starts",
        _d("2025-08-28"),
        "A1-F3",
        group="Garden club",
        pickings=((_d("2026-06-03"), "5", "pint", "eaten in class"), (_d("2026-06-10"), "6.4", "lb", "eaten in class")),
    ),
    DemoCrop(
        "Bed 5",
        "kale",
        "starts",
        _d("2025-08-29"),
        "A1-D2",
        cleared=_d("2026-03-17"),
        pickings=(
            (_d("2025-10-21"), "3.8", "lb", "kitchen"),
            (_d("2025-11-18"), "5.3", "lb", "kitchen"),
            (_d("2026-03-10"), "1.2", "lb", "compost"),
        ),
    ),
    DemoCrop(
        "Bed 2",
        "spinach",
        "direct",
        _d("2025-09-02"),
        "A1-D2",
        cleared=_d("2025-12-04"),
        pickings=((_d("2025-10-16"), "1.9", "lb", "eaten in class"), (_d("2025-11-06"), "1.3", "lb", "kitchen")),
    ),
    DemoCrop(
        "Bed 1",
        "garlic",
        "cloves",
        _d("2025-10-07"),
        "E1-G4",
        cleared=_d("2026-06-11"),
        pickings=((_d("2026-06-09"), "9.7", "lb", "taken home"),),
    ),
    DemoCrop(
        "Bed 3",
        "winter-wheat",
        "direct",
        _d("2025-10-02"),
        "A1-C4",
        cleared=_d("2026-06-12"),
        pickings=((_d("2026-06-12"), "2", "lb", "kept as seed"),),
    ),
    DemoCrop(
        "Bed 4",
        "radish",
        "direct",
        _d("2026-04-02"),
        "A1-C2",
        cleared=_d("2026-05-15"),
        pickings=((_d("2026-05-06"), "3.4", "lb", "eaten in class"), (_d("2026-05-12"), "2.2", "lb", "kitchen")),
    ),
    DemoCrop(
        "Bed 2",
        "pea",
        "direct",
        _d("2026-03-31"),
        "E1-H2",
        cleared=_d("2026-06-12"),
        pickings=((_d("2026-06-02"), "4", "pint", "eaten in class"), (_d("2026-06-09"), "2.1", "lb", "eaten in class")),
    ),
    DemoCrop(
        "Bed 5",
        "carrot",
        "direct",
        _d("2026-03-31"),
        "E1-H3",
        cleared=_d("2026-07-01"),
        pickings=((_d("2026-06-11"), "7.9", "lb", "eaten in class"),),
    ),
    DemoCrop(
        "Bed 7",
        "lettuce",
        "starts",
        _d("2026-04-07"),
        "A1-D2",
        cleared=_d("2026-06-05"),
        pickings=((_d("2026-05-14"), "3.3", "lb", "kitchen"), (_d("2026-05-28"), "2.9", "lb", "kitchen")),
    ),
    DemoCrop(
        "Bed 6",
        "tomato",
        "indoors",
        _d("2026-03-24"),
        "A1-H2",
        set_out=_d("2026-05-19"),
        cleared=_d("2026-09-29"),
        pickings=(
            (_d("2026-08-27"), "11.5", "lb", "kitchen"),
            (_d("2026-09-10"), "14.2", "lb", "sold"),
            (_d("2026-09-24"), "6.3", "lb", "given away"),
        ),
    ),
    DemoCrop(
        "Bed 1",
        "potato",
        "cloves",
        _d("2026-05-05"),
        "A1-C4",
        cleared=_d("2026-09-09"),
        pickings=((_d("2026-09-01"), "17.6", "lb", "kitchen"), (_d("2026-09-08"), "6.1", "lb", "kitchen")),
    ),
    # 2026–27, up to the demo day
    DemoCrop(
        "Bed 5",
        "kale",
        "starts",
        _d("2026-08-27"),
        "A1-D2",
        cleared=_d("2027-03-16"),
        group="Docks",
        pickings=(
            (_d("2026-10-20"), "4.2", "lb", "kitchen"),
            (_d("2026-11-17"), "6.1", "lb", "kitchen"),
            (_d("2027-03-09"), "1.8", "lb", "taken home"),
        ),
    ),
    DemoCrop(
        "Bed 2",
        "spinach",
        "direct",
        _d("2026-09-01"),
        "A1-D2",
        cleared=_d("2026-12-03"),
        pickings=((_d("2026-10-15"), "2.2", "lb", "eaten in class"), (_d("2026-11-10"), "1.6", "lb", "kitchen")),
    ),
    DemoCrop(
        "Half barrel",
        "lettuce",
        "direct",
        _d("2026-08-27"),
        "A1-B2",
        cleared=_d("2026-11-12"),
        pickings=((_d("2026-10-22"), "14", "handful", "eaten in class"),),
    ),
    DemoCrop("Bed 1", "garlic", "cloves", _d("2026-10-06"), "A1-D4", group="Birches"),
    DemoCrop("Bed 3", "winter-wheat", "direct", _d("2026-10-01"), "A1-C4", group="Cedars"),
    DemoCrop("Bed 7", "spinach", "direct", _d("2027-03-30"), "A1-D2", group="Elders"),
    DemoCrop("Bed 2", "pea", "direct", _d("2027-03-30"), "E1-H2"),
    DemoCrop("Bed 5", "carrot", "direct", _d("2027-03-30"), "A1-D3"),
    DemoCrop("Bed 4", "radish", "direct", _d("2027-04-07"), "A1-C2"),
    DemoCrop("Bed 2", "lettuce", "direct", _d("2027-04-06"), "A3-D4"),
    DemoCrop("Trough", "lettuce", "starts", _d("2027-04-07"), "A1-C1"),
    DemoCrop(
        "Half barrel",
        "radish",
        "direct",
        _d("2027-03-11"),
        "A1-B2",
        cover="frame",
        group="Garden club",
        pickings=((_d("2027-04-13"), "31", "count", "eaten in class"),),
    ),
    DemoCrop("Bed 6", "tomato", "indoors", _d("2027-03-30"), "A1-H2", status="started"),
    DemoCrop("Bed 3", "beet", "starts", _d("2027-04-20"), "D1-F2", status="planned"),
    DemoCrop("Bed 1", "potato", "cloves", _d("2027-05-25"), "E1-H4", status="planned"),
    DemoCrop("Bed 7", "lettuce", "starts", _d("2027-04-22"), "A3-B4", status="planned", theme="Salad bowl"),
    DemoCrop("Bed 7", "scallion", "starts", _d("2027-04-22"), "D3-D4", status="planned", theme="Salad bowl"),
    DemoCrop("Bed 4", "pumpkin", "direct", _d("2027-06-08"), "D1-F3", status="planned"),
    DemoCrop("Bed 3", "chard", "starts", _d("2027-04-23"), "D3-H4", status="pencilled"),
    DemoCrop("Bed 5", "cabbage", "starts", _d("2027-04-20"), "E1-H2", status="pencilled"),
    DemoCrop("Fence strip", "bush-bean", "direct", _d("2027-05-12"), "A1-H2", status="pencilled"),
    # Three plans for the empty part of Bed 2, which is to be rebuilt in June
    DemoCrop("Bed 2", "radish", "direct", _d("2027-04-19"), "A1-D2", status="pencilled"),
    DemoCrop("Bed 2", "carrot", "direct", _d("2027-04-20"), "A1-D1", status="pencilled", draft="Birches' plan"),
    DemoCrop("Bed 2", "chard", "starts", _d("2027-04-22"), "A2-D2", status="pencilled", draft="Birches' plan"),
    DemoCrop("Bed 2", "sweet-corn", "direct", _d("2027-05-18"), "A1-D2", status="pencilled", draft="Ferns' plan"),
    DemoCrop(
        "Bed 2",
        "pole-bean",
        "direct",
        _d("2027-06-01"),
        "A1-D2",
        status="pencilled",
        draft="Ferns' plan",
        with_others=True,
    ),
    # For bees and butterflies, along the fence
    DemoCrop("Fence strip", "coneflower", "starts", _d("2026-05-05"), "I1-J2"),
    DemoCrop("Fence strip", "bee-balm", "starts", _d("2026-05-05"), "K1-L2"),
    DemoCrop("Fence strip", "milkweed", "starts", _d("2026-05-12"), "M1-N2"),
    DemoCrop("Fence strip", "aster", "starts", _d("2026-05-12"), "O1-P2"),
    # Their parts of the salad for the last day of school
    DemoCrop("Bed 7", "calendula", "starts", _d("2027-04-27"), "C3-C4", status="pencilled", theme="Salad bowl"),
    DemoCrop("Herb corner", "mint", "starts", _d("2027-04-27"), "A1-B2", status="pencilled"),
)

NOTES = (
    Note(_d("2026-09-03"), "Bed 1", "Potatoes dug by two classes. Four green ones sorted out and thrown away."),
    Note(_d("2026-09-24"), "Bed 6", "Last tomatoes before the cold. The row by the path ripened first again."),
    Note(
        _d("2026-10-06"),
        "Bed 1",
        "Garlic set, one clove for each child in Grade 4 and the rest by the club. Straw over it.",
    ),
    Note(
        _d("2026-11-18"),
        "Bed 5",
        "Soup day: the kale fed 140 bowls. Pick the lower leaves the day before, it washes faster.",
    ),
    Note(_d("2027-03-11"), "Half barrel", "Radish sown under a pane of glass, as a try. Ground 41 °F at noon."),
    Note(_d("2027-03-16"), "Bed 5", "Kale cleared, stems to the compost. Two barrows of leaf mould dug in."),
    Note(_d("2027-03-30"), "Bed 2", "Peas in, an inch deep. Twelve seeds left in the packet."),
    Note(
        _d("2027-04-06"),
        "Bed 4",
        "Holes in the first leaves of the chard left from autumn, pin-prick size. Net put on.",
        _d("2027-04-14"),
    ),
    Note(_d("2027-04-08"), "Bed 1", "Drip line blocked at the third hole.", _d("2027-04-13")),
    Note(
        _d("2027-04-09"),
        "Bed 7",
        "Spinach is up, two leaves each, thin in the second row.",
        _d("2027-04-22"),
        _d("2027-04-13"),
    ),
    Note(
        _d("2027-04-12"),
        "Bed 3",
        "Wheat a hand high and thick. Two plants nobody sowed in E3: name them or pull them.",
        _d("2027-04-16"),
    ),
    Note(
        _d("2027-04-13"),
        "Half barrel",
        "Radishes pulled, 31 of them; one class asked for more of the white-tipped ones.",
    ),
    Note(
        _d("2027-04-13"),
        "Bed 2",
        "Peas are up, four leaves. Something nibbles the end row by the path.",
        _d("2027-04-20"),
    ),
)

STATIONS = (
    DemoStation(
        "worm box",
        "Worm box",
        "Elders",
        (
            (_d("2027-03-30"), "moisture", "right"),
            (_d("2027-04-06"), "moisture", "right"),
            (_d("2027-04-13"), "moisture", "too wet"),
            (_d("2027-04-13"), "warmth of the bedding", 17.0),
        ),
    ),
    DemoStation("weeding", "Paths, edges and wet spots", "Docks", ((_d("2027-04-08"), "barrows of weeds", 2.0),)),
    DemoStation(
        "weather corner", "Weather corner", "Ferns", ((_d("2027-04-12"), "gauge and thermometer", "in order"),)
    ),
    DemoStation(
        "compost",
        "Compost",
        "Garden club",
        (
            (_d("2027-03-17"), "warmth in the middle", 24.0),
            (_d("2027-03-31"), "warmth in the middle", 43.0),
            (_d("2027-04-07"), "warmth in the middle", 51.0),
        ),
    ),
    DemoStation(
        "feeders",
        "Bird feeders",
        "",
        (
            (_d("2027-03-30"), "birds at once", 9.0),
            (_d("2027-04-06"), "birds at once", 6.0),
            (_d("2027-04-13"), "feed left", "little"),
        ),
    ),
    DemoStation("barrel", "Rain barrel", "", ((_d("2027-04-05"), "level", 70.0), (_d("2027-04-12"), "level", 55.0))),
)

MM = 25.4
SEEN = (
    DemoSighting(
        _d("2024-10-01"),
        "Bed 5",
        "kale",
        "pest",
        "aphids",
        part="leaf",
        severity=2,
        remedy="Soap spray",
        outcome="cannot say",
    ),
    DemoSighting(
        _d("2025-10-14"),
        "Bed 5",
        "kale",
        "pest",
        "aphids",
        part="leaf",
        severity=3,
        remedy="Soap spray",
        outcome="did not",
    ),
    DemoSighting(
        _d("2026-10-06"),
        "Bed 5",
        "kale",
        "pest",
        "aphids",
        part="leaf",
        severity=2,
        remedy="Hosed off, three mornings",
        outcome="helped",
    ),
    DemoSighting(
        _d("2025-05-08"),
        "Bed 7",
        "lettuce",
        "pest",
        "slugs and snails",
        part="leaf",
        severity=2,
        remedy="Boards laid out, emptied each morning",
        outcome="helped",
    ),
    DemoSighting(
        _d("2026-05-07"),
        "Bed 7",
        "lettuce",
        "pest",
        "slugs and snails",
        part="leaf",
        severity=1,
        remedy="Boards laid out, emptied each morning",
        outcome="helped",
    ),
    DemoSighting(
        _d("2026-05-28"),
        "Bed 2",
        "pea",
        "disease",
        "powdery mildew",
        part="leaf",
        severity=1,
        remedy="Leaves with it picked off",
        outcome="did not",
    ),
    DemoSighting(_d("2026-08-25"), "Fence strip", "bee-balm", "visitors", "bees", 14),
    DemoSighting(_d("2027-03-09"), "Bed 3", "winter-wheat", "height", amount=5 * MM),
    DemoSighting(_d("2027-04-12"), "Bed 3", "winter-wheat", "height", amount=9 * MM),
    *(
        DemoSighting(_d(day), "Bed 1", "garlic", "height", amount=inches * MM, team=team)
        for day, heights in (
            ("2027-03-02", (6, 5, 7)),
            ("2027-03-16", (9, 7.5, 9)),
            ("2027-03-30", (10.5, 10, 11)),
            ("2027-04-12", (12, 12.5, 13)),
        )
        for team, inches in zip(("The Moles", "The Wrens", "The Snails"), heights, strict=True)
    ),
)

PARTNERS = (
    DemoPartner(
        "Ostrel Growers' Circle",
        "advice",
        "Comes in March to look at the plan; knows the late frosts of the valley",
        "by the notice board at the mill",
        _d("2027-02-24"),
        "Came, moved the tomatoes a week",
    ),
    DemoPartner(
        "Parents' group",
        "hands",
        "Six to ten adults for a Saturday, twice a year",
        "chair of the group",
        _d("2026-09-12"),
        "Built the half barrel stand",
    ),
    DemoPartner(
        "Fold Lane sawmill",
        "materials",
        "Larch boards at cost, chips for nothing",
        "at the yard, weekday mornings",
        _d("2023-05-02"),
        "Boards for Beds 4 and 6",
    ),
    DemoPartner(
        "Valley fund for gardens",
        "money",
        "Up to 400 a year for something named",
        "by letter before 1 November",
        None,
        "",
    ),
)

DRAFTS = (
    DemoDraft("Pencil plan", "Garden educator"),
    DemoDraft("Birches' plan", "", "Birches"),
    DemoDraft("Ferns' plan", "", "Ferns"),
)

BED_FACTS = (
    BedFact(
        "Bed 5",
        "soil_test",
        {
            "taken_on": _d("2027-02-19"),
            "laboratory": "Valley soil bench",
            "ph": 6.4,
            "nitrogen": "low",
            "phosphorus": "middling",
            "potassium": "high",
            "texture": "loam",
            "drainage": "good",
            "lead_ppm": 14,
            "advice": "Two inches of compost a year; no lime for now.",
        },
    ),
    BedFact(
        "Bed 1",
        "soil_test",
        {
            "taken_on": _d("2027-02-19"),
            "laboratory": "Valley soil bench",
            "ph": 7.1,
            "nitrogen": "middling",
            "phosphorus": "high",
            "potassium": "middling",
            "texture": "loam",
            "drainage": "good",
            "lead_ppm": 11,
            "advice": "Nothing needed but leaf mould.",
        },
    ),
    BedFact("Bed 5", "amendment", {"on_day": _d("2027-03-16"), "kind": "leaf mould", "litres": 170, "label": ""}),
    BedFact("Bed 4", "amendment", {"on_day": _d("2027-04-02"), "kind": "compost", "litres": 120, "label": "our own"}),
    BedFact(
        "Bed 2",
        "bed_closure",
        {
            "starts": _d("2027-06-07"),
            "ends": _d("2027-06-25"),
            "reason": "Rebuild in larch",
            "paid_by": "Parents' group",
        },
    ),
    BedFact(
        "Bed 3",
        "found_plant",
        {
            "x_mm": 1371.6,
            "y_mm": 762.0,
            "width_mm": 200,
            "name": "",
            "found_on": _d("2027-04-12"),
            "intent": "undecided",
        },
    ),
    BedFact(
        "Bed 2",
        "found_plant",
        {
            "x_mm": 1676.4,
            "y_mm": 1066.8,
            "width_mm": 250,
            "name": "Sunflower",
            "found_on": _d("2027-04-10"),
            "intent": "keep",
        },
    ),
)

SUPPLIES = (
    DemoSupply("tool", "hand trowel", 10),
    DemoSupply("tool", "watering can", 5),
    DemoSupply("tool", "rake", 3),
    DemoSupply("tool", "bucket", 6),
    DemoSupply("tool", "depth gauge", 8),
    DemoSupply("material", "compost, bag of 2.0 cu ft", 3, "bags", 649),
    DemoSupply("material", "stick", 24),
    DemoSupply("material", "bird seed", 1, "kg", 399, low=2, told="the office"),
    DemoSupply("material", "string", 20, "yd", 12),
    DemoSupply("material", "Carrot seed, packet of 1000", 1, "packets", 295),
    DemoSupply("material", "2 × 12 board, 12 ft", 0, "", 3890),
    DemoSupply("material", "soil mix, bag of 2.0 cu ft", 0, "bags", 899),
    DemoSupply("material", "cage", 11, "", 420),
)

RATERS = ("Grade 4, two years ago", "Garden educator", "Caretaker")
PLACES = (
    PlaceScores(
        "South lawn",
        "raised",
        "Between the hall and the maple, grass since the school was built.",
        {
            "Hours of sun": (
                (4, "7 hours counted on 3 June"),
                (4, "6 h 40 in April, maple in leaf later"),
                (4, "sunny all day"),
            ),
            "Water near by": ((4, "40 paces to the tap"), (5, "hose of 50 ft reaches"), (4, "tap at the hall wall")),
            "Near the door": ((5, "40 paces"), (5, "41 paces"), (5, "by the door")),
            "Soil and drainage": ((3, "water gone in 35 minutes"), (3, "heavy below a foot"), (2, "wet in March")),
            "Fence and safety": ((4, "fence on three sides"), (4, "gate wanted"), (4, "no pipes on the plan")),
            "Room to work": ((4, "string bed and all of us around"), (4, "52 by 35 ft"), (3, "mower needs a lane")),
            "Seen from windows": ((5, "11 windows"), (4, "8 windows"), (5, "from my room")),
        },
    ),
    PlaceScores(
        "Behind the gym",
        "plot",
        "An open strip along the field, once a rubbish heap.",
        {
            "Hours of sun": ((5, "9 hours counted"), (5, "no shade at all"), (5, "bakes in June")),
            "Water near by": (
                (3, "88 paces to the tap"),
                (3, "two hoses coupled reach it"),
                (4, "a line could be laid"),
            ),
            "Near the door": ((4, "90 paces"), (4, "94 paces"), (4, "round the corner")),
            "Soil and drainage": ((4, "12 minutes"), (2, "glass and slag at 10 in; test for lead"), (1, "old heap")),
            "Fence and safety": ((3, "balls fly over"), (3, "hedge on two sides"), (3, "gate to be hung")),
            "Room to work": ((5, "runs for ever"), (5, "90 by 40 ft"), (5, "plenty")),
            "Seen from windows": ((0, "none"), (0, "none"), (1, "from the office")),
        },
    ),
    PlaceScores(
        "Hall roof",
        "rooftop",
        "Flat roof over the hall, reached by the back stairs.",
        {
            "Hours of sun": ((5, "all day"), (5, "11 hours in June"), (5, "hot")),
            "Water near by": ((2, "tap in the stairwell"), (2, "buckets up 24 steps"), (2, "could be piped")),
            "Near the door": ((3, "60 paces and 24 steps"), (2, "stairs"), (2, "stairs")),
            "Fence and safety": (
                (3, "high wall"),
                (1, "load not known"),
                (0, "nobody goes up before an engineer has looked"),
            ),
            "Room to work": ((2, "half the class"), (2, "20 by 14 ft"), (2, "small")),
            "Seen from windows": ((1, "one window"), (1, "one"), (0, "none")),
        },
    ),
)

# The growers' circle's own chart of the valley: invented.
CHART = {
    "pea": {"sow": (3, 4), "pick": (6,)},
    "spinach": {"sow": (3, 4, 8, 9), "pick": (5, 6, 10)},
    "radish": {"sow": (4, 5, 8, 9), "pick": (5, 6, 10)},
    "carrot": {"sow": (4, 5, 6), "pick": (7, 8, 9, 10)},
    "leaf lettuce": {"indoors": (3,), "sow": (4, 5, 8), "set out": (4, 5), "pick": (5, 6, 10)},
    "tomato": {"indoors": (3,), "set out": (5,), "pick": (8, 9)},
    "kale": {"sow": (5, 8), "set out": (8,), "pick": (10, 11, 12)},
    "pumpkin": {"sow": (5,), "pick": (9, 10)},
    "garlic": {"sow": (10,), "pick": (6, 7)},
}

PROJECTS = (DemoProject("Pollinator strip by the gate", "pollinators", _d("2027-02-22"), _d("2027-04-02")),)

SCHOOL = DemoSchool(
    name="Brindlecombe School",
    setting="Ostrel Valley · Kindergarten to Grade 5",
    zone="America/New_York",
    latitude=42.9,
    longitude=-75.4,
    units="us",
    theme="Soup day",
    hose_l_min=16.0,
    bottle_l=1.5,
    rounds_taken=(
        (_d("2027-06-21"), 1, "Summer club"),
        (_d("2027-06-21"), 2, "Summer club"),
        (_d("2027-06-28"), 1, "A family of the Docks"),
        (_d("2027-07-05"), 2, "Grounds staff"),
    ),
    weather=SimulatedPlace(
        seed=4127, mean_c=11.0, swing_c=12.4, daily_range_c=10.5, warmest_day_of_year=203, wet_share=0.33, rain_mm=8.0
    ),
    site_size="52 ft x 35 ft",
    years=YEARS,
    groups=GROUPS,
    features=FEATURES,
    beds=BEDS,
    plantings=PLANTINGS,
    notes=NOTES,
    device="brindlecombe-hut",
    mail_to="garden@brindlecombe.example",
    stations=STATIONS,
    seen=SEEN,
    grades=Grades(5, "Grade", 0),
    place_name="Ostrel Valley",
    partners=PARTNERS,
    places=PLACES,
    raters=RATERS,
    projects=PROJECTS,
    chart=CHART,
    drafts=DRAFTS,
    themes=(DemoTheme("Salad bowl", _d("2027-06-11"), "Every class brings one thing to the bowl."),),
    promises=(DemoPromise("Bed 4", _d("2027-06-08"), "pumpkins"),),
    bed_facts=BED_FACTS,
    supplies=SUPPLIES,
    north_deg=0.0,
)
