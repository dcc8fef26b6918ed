"""The phone's snapshot: its schema is written down, and script and page read what is in it, and nothing else."""

import json
import re
from pathlib import Path

from fastapi.testclient import TestClient
from pydantic import BaseModel

from almanaque.web.journal import phone_snapshot
from almanaque.web.journal.phone_snapshot import PhoneSnapshot

ROOT = Path(__file__).parents[3]
WEB = ROOT / "src/almanaque/web"
SCHEMA = ROOT / "docs/phone_snapshot.schema.json"
SCRIPT = "".join((WEB / f"static/js/{name}.js").read_text(encoding="utf-8") for name in ("phone", "phone_forms"))
PAGE = (WEB / "templates/journal/phone.html").read_text(encoding="utf-8")
# The names that script and page give to a part of the snapshot.
NAMED = {
    r"snap": "PhoneSnapshot",
    r"stop": "PhoneStop",
    r"q": "PhoneQuestion",
    r"a": "PhoneChoice",
    r"drawing": "PhonePicture",
    r"place": "PhoneViewpoint",
    r"job": "PhoneJob",
    r"g": "PhoneGroup",
    r"snap\.school": "PhoneName",
    r"snap\.account": "PhoneName",
}
# What the script itself puts beside what it was sent, and what is no part of the snapshot.
OF_THE_SCRIPT = {
    "PhoneSnapshot": {"fetched", "out"},
    "PhoneQuestion": {"typed", "other"},
}
MODELS = {
    name: model for name, model in vars(phone_snapshot).items() if name.startswith("Phone") and name != "PhoneModel"
}


def test_the_schema_is_written_down() -> None:
    assert json.loads(SCHEMA.read_text(encoding="utf-8")) == PhoneSnapshot.model_json_schema()


def test_what_is_sent_is_what_the_model_says_and_no_more(coordinator: TestClient) -> None:
    sent = coordinator.get("/field/snapshot").json()
    assert sent["stops"]
    assert PhoneSnapshot.model_validate(sent).stops


def test_the_script_reads_nothing_that_is_not_sent() -> None:
    strange = []
    for name, model in NAMED.items():
        for read in re.findall(rf"(?<![\w.'])(?:this\.)?{name}\.(\w+)(?!\()", SCRIPT + PAGE):
            fields = set(MODELS[model].model_fields) | OF_THE_SCRIPT.get(model, set()) | {"length"}
            if read not in fields:
                strange.append(f"{name}.{read}")
    assert not strange


def test_nothing_is_sent_that_neither_script_nor_page_reads() -> None:
    unread = [
        f"{name}.{field}"
        for name, model in MODELS.items()
        if issubclass(model, BaseModel)
        for field in model.model_fields
        if not re.search(rf"\.{field}\b", SCRIPT + PAGE)
    ]
    assert not unread
