"""What a phone takes into the garden and works from without a signal: models with a JSON schema, filled from the store.

`static/js/phone.js` reads it; `docs/phone_snapshot.schema.json` is its schema, and a test holds script and page to it.
"""

from datetime import date
from typing import Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict

from almanaque.commands.harvest import pickings
from almanaque.commands.harvest.pickings import AtHand
from almanaque.commands.journal import tour
from almanaque.commands.journal.tour import TourStop
from almanaque.core.harvest.picking import USES, unit_choices
from almanaque.core.journal import sightings
from almanaque.core.units import format_length
from almanaque.store.journal import viewpoints
from almanaque.store.journal.viewpoints import Viewpoint
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task
from almanaque.web import security, words
from almanaque.web.pictures import compared_with
from almanaque.web.request_scope import UnitOfWork


class PhoneModel(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class PhoneName(PhoneModel):
    """The school or the account that entries are sent for."""

    id: str
    name: str


class PhoneChoice(PhoneModel):
    """An answer, a class or a degree of damage to choose."""

    key: str
    label: str


class PhoneGroup(PhoneModel):
    id: str
    label: str


class PhonePicture(PhoneModel):
    """A drawing to compare a plant with, and what it shows."""

    src: str
    shows: str


class PhoneQuestion(PhoneModel):
    """A question of the tour; `given` is the answer of today, if there is one."""

    key: str
    code: str
    subject: str
    title: str
    detail: str
    ask: str
    answers: list[PhoneChoice]
    given: str
    pictures: list[PhonePicture]


class PhonePlanting(PhoneModel):
    id: str
    name: str
    where: str
    expect: str


class PhoneJob(PhoneModel):
    id: str
    title: str
    who: str
    when: str
    bed: str
    minutes: int
    caution: str
    status: Literal["open", "partly", "done", "not needed"]


class PhoneViewpoint(PhoneModel):
    """A marked place from which a bed is photographed again; `last` is the address of what was taken from it last."""

    id: str
    name: str
    last: str


class PhoneStop(PhoneModel):
    """A bed on the tour."""

    id: str
    name: str
    purpose: str
    last: str
    questions: list[PhoneQuestion]
    plantings: list[PhonePlanting]
    jobs: list[PhoneJob]
    viewpoints: list[PhoneViewpoint]


class PhoneTap(PhoneModel):
    """An amount that is entered by one tap."""

    key: str
    amount: str
    unit: str


class PhoneReady(PhoneModel):
    """A planting to pick: how one sees that it is ready, in which units, and from which amount on the phone asks back."""

    id: str
    label: str
    sign: str
    how: str
    units: list[str]
    parts: list[str]
    signs: dict[str, str]
    taps: list[PhoneTap]
    ask: dict[str, float]
    stays: bool
    pictures: list[PhonePicture]


class PhoneSnapshot(PhoneModel):
    today: date
    day: str
    token: str
    school: PhoneName
    account: PhoneName
    stops: list[PhoneStop]
    jobs: list[PhoneJob]
    ready: list[PhoneReady]
    groups: list[PhoneGroup]
    units: list[str]
    uses: list[str]
    lengths: Literal["in", "cm"]
    troubles: dict[str, list[str]]
    parts: list[str]
    severity: list[PhoneChoice]
    visitors: list[str]
    stages: list[str]
    teams: list[str]


def read(work: UnitOfWork) -> PhoneSnapshot:
    """The garden of today for the phone of whoever asks."""
    school, visitor = work.context.school, work.scope.visitor
    places: dict[UUID, list[Viewpoint]] = {}
    for place in viewpoints.viewpoints(work.connection):
        places.setdefault(place.bed_id, []).append(place)
    return PhoneSnapshot(
        today=work.today,
        day=words.weekday_day(work.today),
        token=security.form_token(work.scope.request),
        school=PhoneName(id=str(school.id), name=school.name),
        account=PhoneName(id=str(visitor.account_id), name=visitor.account_name),
        stops=[
            _stop(work, stop, places.get(stop.bed.id, []))
            for stop in tour.tour(work.connection, work.context, today=work.today)
        ],
        jobs=[_job(work, task) for task in _jobs_of_today(work)],
        ready=[_ready(at_hand) for at_hand in pickings.at_hand(work.connection, work.context, work.today)],
        groups=[PhoneGroup(id=key, label=name) for key, name in work.context.group_names(work.today).items()],
        units=list(unit_choices(work.context.crops, school.units)),
        uses=list(USES),
        lengths="in" if school.units == "us" else "cm",
        troubles={kind: list(names) for kind, names in sightings.TROUBLES.items()},
        parts=list(sightings.PARTS),
        severity=[PhoneChoice(key=str(key), label=label) for key, label in sightings.SEVERITY.items()],
        visitors=list(sightings.VISITORS),
        stages=list(sightings.STAGES),
        teams=sorted({team.name for group in work.context.groups_on(work.today) for team in group.teams}),
    )


def _stop(work: UnitOfWork, stop: TourStop, places: list[Viewpoint]) -> PhoneStop:
    units = work.context.school.units
    last = stop.last
    crops = {str(here.planting.id): work.context.crops[here.planting.crop] for here in stop.here}
    return PhoneStop(
        id=str(stop.bed.id),
        name=stop.bed.name,
        purpose=stop.bed.purpose,
        last=f"Last seen {words.short_day(last.day)}: {sightings.say(last, units)}" if last else "",
        questions=[
            PhoneQuestion(
                key=tour.key(question),
                code=question.code,
                subject=question.subject,
                title=question.title,
                detail=question.detail,
                ask=question.ask,
                answers=[PhoneChoice(key=answer.key, label=answer.label) for answer in question.answers],
                given=given,
                pictures=_pictures(compared_with.drawings(crops[question.planting], question.code))
                if question.planting in crops
                else [],
            )
            for question, given in stop.asked
        ],
        plantings=[
            PhonePlanting(
                id=str(here.planting.id),
                name=here.name,
                where=here.where,
                expect=format_length(here.height_mm, units, feet=False) if here.height_mm else "",
            )
            for here in stop.here
        ],
        jobs=[_job(work, task) for task in stop.jobs],
        viewpoints=[
            PhoneViewpoint(
                id=str(place.id),
                name=place.name,
                last=f"/journal/photos/{place.last_photo_id}" if place.last_photo_id else "",
            )
            for place in places
        ],
    )


def _ready(at_hand: AtHand) -> PhoneReady:
    crop = at_hand.crop
    signs = {
        crop.part: (crop.ready_sign, crop.how_to_pick),
        **{part: (other.sign, other.how) for part, other in crop.parts.items()},
    }
    return PhoneReady(
        id=str(at_hand.planting.id),
        label=f"{crop.name.en}, {at_hand.bed.name}",
        sign=crop.ready_sign,
        how=crop.how_to_pick,
        units=list(at_hand.units),
        parts=list(at_hand.parts),
        signs={part: f"Ready: {sign}. {how}" for part, (sign, how) in signs.items()},
        taps=[PhoneTap(key=f"{amount} {unit}", amount=amount, unit=unit) for amount, unit in at_hand.taps],
        ask=dict(at_hand.ask_above),
        stays=crop.life == "perennial",
        pictures=_pictures(compared_with.ripe_or_not(crop)),
    )


def _pictures(found: list[tuple[str, str]]) -> list[PhonePicture]:
    return [PhonePicture(src=src, shows=word) for src, word in found]


def _job(work: UnitOfWork, task: Task) -> PhoneJob:
    names = work.context.group_names(work.today)
    who = names.get(str(task.class_group_id), "") if task.class_group_id else "carers" if task.carer else "nobody yet"
    return PhoneJob(
        id=str(task.id),
        title=task.title,
        who=who,
        when=words.weekday_day(task.on_day or task.from_day),
        bed=task.bed_name or "",
        minutes=task.minutes,
        caution=task.caution,
        status="partly" if task.part_done_on == work.today else task.status,
    )


def _jobs_of_today(work: UnitOfWork) -> list[Task]:
    """Jobs due today, and those of the last week that were left."""
    found = tasks.tasks(work.connection, start=date.fromordinal(work.today.toordinal() - 7), end=work.today)
    return [t for t in found if t.status == "open" or t.done_on == work.today]
