"""PDFs made by the worker: what is on them, measured on the paper; and what they refuse."""

import io
import re
from collections.abc import Iterator
from typing import Any
from uuid import UUID, uuid4

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from almanaque.data import catalogue
from almanaque.formats import pdf
from almanaque.formats.crops import portraits
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.worker import pdfs
from tests.database import NORTH, SOUTH, bed_id
from tests.web.pages import enter, open_page, token

MM = 72 / 25.4


@pytest.fixture
def worker(demo: Addresses) -> Iterator[Database]:
    opened = Database(demo.app, max_size=2)
    opened.open()
    yield opened
    opened.close()


def pack(
    client: TestClient,
    worker: Database,
    *beds: str,
    paper: str = "letter",
    parts: tuple[str, ...] = ("run", "mats", "labels", "sums"),
) -> PdfReader:
    """Ask for a pack, let the worker make it, and read it."""
    data: dict[str, Any] = {
        "form_token": token(client),
        "beds": [str(bed_id(b)) for b in beds],
        "parts": list(parts),
        "paper": paper,
        "on": "",
    }
    answer = client.post("/garden/prints", data=data)
    job = UUID(answer.url.path.rsplit("/", 1)[1])
    assert "is being made" in answer.text
    pdfs.make(worker, NORTH, job)
    page = open_page(client, f"/prints/{job}")
    assert f"/prints/{job}.pdf" in page.links, page.text
    file = client.get(f"/prints/{job}.pdf")
    assert file.headers["content-type"] == "application/pdf"
    return PdfReader(io.BytesIO(file.content))


def circles(page: Any) -> list[tuple[float, float, float]]:
    """Middle and diameter [mm] of every circle on a page, from the curves themselves."""
    found: list[tuple[float, float, float]] = []
    curve: list[tuple[float, float]] = []

    def see(operator: bytes, operands: Any, matrix: Any, _: Any) -> None:
        def at(x: Any, y: Any) -> tuple[float, float]:
            a, b, c, d, e, f = matrix
            return (a * float(x) + c * float(y) + e) / MM, (b * float(x) + d * float(y) + f) / MM

        if operator == b"m":
            curve[:] = [at(*operands)]
        elif operator == b"c":
            curve.append(at(*operands[4:]))
            if len(curve) == 5:
                xs, ys = [p[0] for p in curve], [p[1] for p in curve]
                found.append(((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2, max(xs) - min(xs)))

    page.extract_text(visitor_operand_before=see)
    return found


def text_at(page: Any, words: str) -> list[tuple[float, float]]:
    """Where a text begins on a page [mm from the left, from the top]."""
    height = float(page.mediabox.height)
    found: list[tuple[float, float]] = []

    def see(text: str, matrix: Any, text_matrix: Any, *_: Any) -> None:
        if text.strip().startswith(words):
            x = matrix[0] * text_matrix[4] + matrix[2] * text_matrix[5] + matrix[4]
            y = matrix[1] * text_matrix[4] + matrix[3] * text_matrix[5] + matrix[5]
            found.append((x / MM, (height - y) / MM))

    page.extract_text(visitor_text=see)
    return found


def test_dots_of_a_seed_mat_lie_where_they_must_to_half_a_millimetre(coordinator: TestClient, worker: Database) -> None:
    made = pack(coordinator, worker, "Bed 7", parts=("mats",))
    lettuce, scallion = (sorted(circles(page)) for page in made.pages[:2])
    assert all(size == pytest.approx(4.4, abs=0.05) for *_, size in lettuce + scallion)
    # Four in a square of a foot: one in the middle of each quarter; sixteen: four, 3 in apart, the first 1.5 in from the edge.
    assert len(lettuce) == 1
    xs = sorted({round(x, 1) for x, *_ in scallion})
    ys = sorted({round(y, 1) for _, y, _ in scallion})
    assert len(scallion) == 4
    assert xs[1] - xs[0] == pytest.approx(76.2, abs=0.5)
    assert ys[1] - ys[0] == pytest.approx(76.2, abs=0.5)
    text = made.pages[0].extract_text()
    assert "100 mm" in text
    assert "Print at 100 %" in text


def test_both_rulers_are_as_long_as_they_say(coordinator: TestClient, worker: Database) -> None:
    page = pack(coordinator, worker, "Bed 7", parts=("mats",), paper="a4").pages[0]
    assert (float(page.mediabox.width) / MM, float(page.mediabox.height) / MM) == (
        pytest.approx(210, abs=0.1),
        pytest.approx(297, abs=0.1),
    )
    marks: list[float] = []

    def see(operator: bytes, operands: Any, matrix: Any, _: Any) -> None:
        if operator == b"m" and float(operands[0]):
            marks.append((matrix[0] * float(operands[0]) + matrix[4]) / MM)

    page.extract_text(visitor_operand_before=see)
    for length in (100, 101.6):
        assert any(abs(a - b - length) < 0.05 for a in marks for b in marks), length


def test_labels_stand_where_a_common_sheet_has_them(coordinator: TestClient, worker: Database) -> None:
    # **Source:** from memory: 30 labels of 2 5/8 x 1 in on letter, first label 3/16 in from the left and 1/2 in
    # from the top, pitch 2 3/4 in.
    page = pack(coordinator, worker, "Bed 6", parts=("labels",)).pages[0]
    (x1, y1), (x2, y2), (x3, _), (x4, y4) = text_at(page, "Tomato")
    assert (x2 - x1, x3 - x2) == (pytest.approx(69.85, abs=0.5), pytest.approx(69.85, abs=0.5))
    assert (y1, x4, y4 - y1) == (pytest.approx(y2, abs=0.1), pytest.approx(x1, abs=0.1), pytest.approx(25.4, abs=0.5))
    assert x1 == pytest.approx(4.76 + 24, abs=0.5)  # the words begin 24 mm into the label, beside the code
    assert 12.7 < y1 < 12.7 + 25.4
    # On A4: 21 labels of 63.5 x 38.1 mm, pitch 66.04 mm, also from memory.
    page = pack(coordinator, worker, "Bed 6", parts=("labels",), paper="a4").pages[0]
    (x1, y1), (x2, _), _, (_, y4) = text_at(page, "Tomato")
    assert (x2 - x1, y4 - y1) == (pytest.approx(66.04, abs=0.5), pytest.approx(38.1, abs=0.5))


def test_a_pack_for_four_beds_holds_every_sheet_in_our_own_type(coordinator: TestClient, worker: Database) -> None:
    made = pack(coordinator, worker, "Bed 4", "Bed 5", "Bed 6", "Bed 7")
    text = "\n".join(page.extract_text() for page in made.pages)
    for words in (
        "Planting day, Bed 4",
        "Squares and groups",
        "Depth gauge at true size",
        "Seed mats, Bed 7",
        "Sums about Bed 5",
        "Answers",
        "Gloves or clean hands",
    ):
        assert words in text, words
    assert "Print the run sheet" not in text  # no buttons on paper
    assert "Afterwards" not in text
    fonts = {
        str(f.get_object()["/BaseFont"]) for page in made.pages for f in page["/Resources"].get("/Font", {}).values()
    }  # type: ignore[union-attr]
    assert fonts
    assert all(re.search("Atkinson|Literata", name) for name in fonts), fonts
    assert all(page.extract_text().strip() or circles(page) for page in made.pages)


def test_a_pack_of_nothing_is_refused_in_a_sentence(coordinator: TestClient) -> None:
    for data, words in (
        ({"beds": [], "parts": ["run"], "paper": "a4"}, "Choose 1 to 12 beds"),
        ({"beds": [str(bed_id("Bed 4"))], "parts": [], "paper": "a4"}, "Choose what to print"),
        ({"beds": [str(bed_id("Bed 4"))], "parts": ["run"], "paper": "papyrus"}, "none of the choices"),
        ({"beds": [str(bed_id("Herb corner"))], "parts": ["run", "mats", "labels"], "paper": "a4"}, "nothing to print"),
    ):
        answer = coordinator.post("/garden/prints", data={"form_token": token(coordinator), "on": "", **data})
        assert answer.status_code == 422
        assert words in answer.text


def test_what_goes_wrong_is_said_to_whoever_waits(
    coordinator: TestClient, worker: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object, **__: object) -> None:
        raise ValueError("out of ink")

    monkeypatch.setattr(pdf, "make", broken)
    answer = coordinator.post(
        "/garden/prints",
        data={
            "form_token": token(coordinator),
            "beds": [str(bed_id("Bed 4"))],
            "parts": ["run"],
            "paper": "a4",
            "on": "",
        },
    )
    job = UUID(answer.url.path.rsplit("/", 1)[1])
    pdfs.make(worker, NORTH, job)
    assert pdfs.FAILED in open_page(coordinator, f"/prints/{job}").text
    assert coordinator.get(f"/prints/{job}.pdf").status_code == 404
    pdfs.make(worker, NORTH, uuid4())  # one that is gone is no fault


def test_another_schools_pdf_is_not_there(client: TestClient, worker: Database) -> None:
    enter(client, "coordinator")
    answer = client.post(
        "/garden/prints",
        data={"form_token": token(client), "beds": [str(bed_id("Bed 4"))], "parts": ["run"], "paper": "a4", "on": ""},
    )
    path = answer.url.path
    enter(client, "educator")
    assert client.get(path).status_code == 200  # of the same school
    client.post("/schools", data={"form_token": token(client), "school": str(SOUTH)})
    assert client.get(path).status_code == 404
    assert client.get(f"{path}.pdf").status_code == 404


@pytest.mark.parametrize(
    "address",
    [
        "file:///etc/passwd",
        "http://127.0.0.1:1/x.css",
        "/static/../../settings.py",
        "/static/%2e%2e/app.py",
        "http://almanaque.invalid/etc/passwd",
    ],
)
def test_a_page_reaches_nothing_that_does_not_ship(address: str) -> None:
    with pytest.raises(pdf.PdfRefused):
        pdf._body(address if "://" in address else pdf.BASE.rstrip("/") + address, pdfs.STATIC, None)
    made = pdf.make(f"<link rel=stylesheet href='{address}'><img src='{address}'><p>still here", static=pdfs.STATIC)
    assert "still here" in PdfReader(io.BytesIO(made.body)).pages[0].extract_text()


def test_the_season_report_is_two_pages(worker: Database, coordinator: TestClient) -> None:
    for paper in ("letter", "a4"):
        for season in ("2024–25", "2025–26", "2026–27"):
            answer = coordinator.post(
                "/harvest/report", data={"form_token": token(coordinator), "season": season, "paper": paper}
            )
            job = UUID(answer.url.path.rsplit("/", 1)[1])
            pdfs.make(worker, NORTH, job)
            found = PdfReader(io.BytesIO(coordinator.get(f"/prints/{job}.pdf").content))
            assert len(found.pages) == 2, (paper, season)
            text = found.pages[0].extract_text()
            assert f"what the garden gave in {season}" in text
            assert "Bed by bed" in text
            assert "What became of it" in found.pages[1].extract_text()


def test_a_report_with_photos_has_a_third_page_with_them(worker: Database, coordinator: TestClient) -> None:
    page = open_page(coordinator, "/harvest/report")
    offered = [given["value"] for _, given in page.tags if given.get("name") == "photo"]
    answer = coordinator.post(
        "/harvest/report", data={"form_token": token(coordinator), "season": "2026–27", "photo": offered[:2]}
    )
    job = UUID(answer.url.path.rsplit("/", 1)[1])
    pdfs.make(worker, NORTH, job)
    found = PdfReader(io.BytesIO(coordinator.get(f"/prints/{job}.pdf").content))
    assert len(found.pages) == 3
    assert "How it looked" in found.pages[2].extract_text()
    assert len(found.pages[2].images) == 2


def test_drawings_of_plants_reach_the_paper() -> None:
    href = portraits.address(catalogue()["radish"], "ripe")
    drawn = pdf.make(
        f"<img src='{href}'>", static=pdfs.STATIC, given=lambda path: (pdfs.drawing(path), "image/svg+xml")
    )
    bare = pdf.make(
        "<img src='/portraits/radish/nothing.svg'>", static=pdfs.STATIC, given=lambda path: (b"", "image/svg+xml")
    )
    assert len(drawn.body) > 1.5 * len(bare.body)


def test_a_link_that_asks_for_labels_ticks_labels_alone(reader: TestClient) -> None:
    bed = bed_id("Bed 7")
    labels = open_page(reader, f"/garden/beds/{bed}/labels")
    link = next(one for one in labels.links if one.startswith("/garden/prints"))
    page = open_page(reader, link)
    parts = {given["value"]: "checked" in given for tag, given in page.tags if given.get("name") == "parts"}
    assert parts == {"run": False, "mats": False, "labels": True, "sums": False}
    beds = [given["value"] for tag, given in page.tags if given.get("name") == "beds" and "checked" in given]
    assert beds == [str(bed)]
    every = open_page(reader, f"/garden/prints?bed={bed}")
    assert all("checked" in given for tag, given in every.tags if given.get("name") == "parts")
