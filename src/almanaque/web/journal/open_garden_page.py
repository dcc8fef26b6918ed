"""The whole garden for whoever has its link: read, look, do a task at home and say what came of it. No account, no names."""

import hashlib
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Request, Response
from pydantic import BaseModel

from almanaque.commands import context as contexts
from almanaque.commands.context import Context
from almanaque.commands.journal import home_answers, open_gardens, photos
from almanaque.commands.journal import thanks as thanks_given
from almanaque.commands.journal.home_answers import FromHome
from almanaque.commands.journal.open_gardens import OpenBed, OpenPlanting
from almanaque.commands.journal.thanks import Thanks
from almanaque.core.errors import BadInput
from almanaque.core.journal import home_tasks
from almanaque.core.journal.home_tasks import HomeTask
from almanaque.formats.crops import portraits
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.journal import home_answers as home_store
from almanaque.store.journal import open_gardens as store
from almanaque.store.journal import photos as photo_store
from almanaque.store.journal.open_gardens import OpenGarden
from almanaque.store.journal.photos import Photo
from almanaque.web import forms, frame, security, words
from almanaque.web.journal import kitchen_page
from almanaque.web.journal.followed_link import NOT_INDEXED, FollowedLink, follow, followed
from almanaque.web.pictures import bed_from_above
from almanaque.web.pictures.bed_from_above import BedFromAbove
from almanaque.web.view import View

router = APIRouter()
READER_COOKIE = "almanaque_reader"  # tells browsers apart, so that each answers a task once
READER_LASTS = timedelta(days=400)
PHOTO_BYTES = 8_000_000  # of one photo from home


@router.get("/open/{secret}")
def page(request: Request, secret: str, thanks: str = "") -> Response:
    """The garden as it is today."""
    return _page(request, followed(request), thanks=thanks)


@router.get("/open/{secret}/photos/{photo_id}")
def photo(request: Request, secret: str, photo_id: UUID, size: str = "small") -> Response:
    """A photo that was chosen for this page; no other one."""
    link = followed(request)
    with request.app.state.database.school(link.school_id) as connection:
        if photo_id not in store.open_garden(connection, link.garden_id).photos:
            raise errors.NotFound("That photo does not belong to this page.")
        body = photo_store.picture(connection, photo_id, "picture" if size == "picture" else "small")
    headers = {"Cache-Control": "private, max-age=3600", **NOT_INDEXED}
    return Response(body, media_type="image/jpeg", headers=headers)


class HomeAnswerForm(BaseModel):
    """What the form of a task sends, as it was typed."""

    bed: str = ""
    done: str = ""
    counted: str = ""
    vote: str = ""
    line: str = ""
    nobody: str = ""


@router.post("/open/{secret}/answers")
@security.takes(size=PHOTO_BYTES + security.FORM_BYTES)
def answer(
    request: Request,
    secret: str,
    form: Annotated[HomeAnswerForm, Form()],
    link: Annotated[FollowedLink, Depends(follow)],
) -> Response:
    """Hold an answer until an educator lets it in; each browser answers a task once."""
    try:
        bed_id = forms.row_id(form.bed)
        with request.app.state.database.school(link.school_id) as connection:
            made = store.open_garden(connection, link.garden_id)
            home_answers.check_room(connection, made)  # before a photo is unpacked
        task = home_tasks.task_of(made.tasks.get(str(bed_id), ""))
        if task is None:
            raise BadInput("journal.home_no_task", field="bed")
        sent = request.state.form.get("file")
        pictured = bool(getattr(sent, "filename", ""))
        said = home_tasks.read_answer(
            task, done=bool(form.done), counted=form.counted, vote=form.vote, line=form.line, photo=pictured
        )
        if pictured and not form.nobody:
            raise BadInput("journal.home_people_in_picture", field="nobody")
        name, body = forms.file(sent) if pictured else ("", b"")
        jpeg = photos.read(body, name) if pictured else None
        with request.app.state.database.school(link.school_id) as connection:
            context = contexts.load(connection)
            today = request.app.state.clock.today(context.school.zone)
            from_home = FromHome(uuid4(), bed_id, reader(request, link), said, jpeg)
            home_answers.take(connection, context, made, from_home, today=today)
    except BadInput as error:
        return _page(request, link, typed=form, error=error, status=422)
    return frame.see(f"/open/{link.secret}?thanks={bed_id}#bed-{bed_id}")


def reader(request: Request, link: FollowedLink) -> bytes:
    """A hash of what this browser holds, other for each link, so that nobody can be followed from one to the next."""
    held = security.cookie(request, READER_COOKIE) or security.cookie(request, security.FORM_COOKIE)
    return hashlib.sha256(f"{held}|{link.garden_id}".encode()).digest()


@dataclass(frozen=True)
class OpenTaskView(View):
    """A task for home, with what was typed when it is shown again."""

    task: HomeTask
    choices: list[str]
    answered: bool
    typed: HomeAnswerForm
    error: str
    error_field: str


@dataclass(frozen=True)
class OpenPlantView(View):
    """A planting in sentences, with the picture of how it should look today."""

    told: OpenPlanting
    name: str
    picture: str


@dataclass(frozen=True)
class OpenPhotoView(View):
    """A photo with its day and words."""

    id: str
    day: str
    alt: str


@dataclass(frozen=True)
class OpenBedView(View):
    """A bed of the walk."""

    id: str
    name: str
    purpose: str
    theirs: bool
    now: BedFromAbove
    then: BedFromAbove | None
    photos: list[OpenPhotoView]
    plants: list[OpenPlantView]
    task: OpenTaskView | None
    thanked: bool


@dataclass(frozen=True)
class OpenGardenView(View):
    """What `journal/open_garden.html` is given."""

    school: str
    today: str
    whose: str
    greeting: str
    since: str
    secret: str
    beds: list[OpenBedView]
    votes: bool
    until: str


def _page(
    request: Request,
    link: FollowedLink,
    *,
    thanks: str = "",
    typed: HomeAnswerForm | None = None,
    error: BadInput | None = None,
    status: int = 200,
) -> Response:
    with request.app.state.database.school(link.school_id) as connection:
        context = contexts.load(connection)
        today = request.app.state.clock.today(context.school.zone)
        made = store.open_garden(connection, link.garden_id)
        if made.audience == "kitchen":
            return kitchen_page.draw(request, connection, context, link.secret, made, today=today)
        if made.audience == "partners":
            return _thanks(request, context, made, link, thanks_given.read(connection, context, made, today=today))
        found = open_gardens.read(connection, context, made, today=today)
        given = home_store.answered(connection, made.id, reader(request, link))
        before = garden.plantings(connection, since=made.from_day, until=made.from_day)
    view = OpenGardenView(
        school=context.school.name,
        today=f"{words.short_day(today)} {today.year}",
        whose=_whose(context, made, today),
        greeting=made.greeting,
        since=words.short_day(made.from_day),
        secret=link.secret,
        beds=[],
        votes=made.ballot_id is not None,
        until=f"{words.short_day(made.until)} {made.until.year}",
    )
    beds = []
    for bed in found:
        earlier = [p for p in before if p.bed_id == bed.bed.id]
        asked_here = typed is not None and typed.bed == str(bed.bed.id)
        task = _task(bed, made, given, typed if asked_here else None, error if asked_here else None)
        now = bed_from_above.draw(context, bed.bed, bed.plantings, today, today)
        then = bed_from_above.draw(context, bed.bed, earlier, made.from_day, today)
        beds.append(
            _bed(
                context,
                bed,
                today,
                now,
                then if then.plants != now.plants else None,
                task,
                thanked=thanks == str(bed.bed.id),
            )
        )
    response = frame.bound_page(request, "journal/open_garden.html", replace(view, beds=beds), status=status)
    response.headers.update(NOT_INDEXED)
    know_reader(request, response)
    return response


def know_reader(request: Request, response: Response) -> None:
    """Let a browser hold what it is told apart by."""
    if not security.cookie(request, READER_COOKIE):
        kept = security.cookie(request, security.FORM_COOKIE) or security.new_token()
        security.set_cookie(response, request, READER_COOKIE, kept, lasts=READER_LASTS)


@dataclass(frozen=True)
class GivenCropView(View):
    """What a crop gave, with its picture when it is ready."""

    name: str
    picture: str
    words: str


@dataclass(frozen=True)
class ThanksView(View):
    """What `journal/thanks.html` is given."""

    school: str
    greeting: str
    since: str
    secret: str
    told: Thanks
    crops: list[GivenCropView]
    photos: list[OpenPhotoView]
    until: str


def _thanks(request: Request, context: Context, made: OpenGarden, link: FollowedLink, told: Thanks) -> Response:
    view = ThanksView(
        school=context.school.name,
        greeting=made.greeting,
        since=f"{words.short_day(made.from_day)} {made.from_day.year}",
        secret=link.secret,
        told=told,
        crops=[
            GivenCropView(
                name=one.crop.name.en,
                picture=portraits.address(one.crop, "ripe", px=96),
                words=words.joined([one.amount, words.count(one.times, "picking")]),
            )
            for one in told.crops
        ],
        photos=[_photo(one, "Photo of the garden") for one in told.photos],
        until=f"{words.short_day(made.until)} {made.until.year}",
    )
    response = frame.bare_page(request, "journal/thanks.html", view)
    response.headers.update(NOT_INDEXED)
    return response


def _photo(one: Photo, alt: str) -> OpenPhotoView:
    return OpenPhotoView(
        id=str(one.id), day=f"{words.short_day(one.noted_on)} {one.noted_on.year}", alt=one.caption or alt
    )


def _whose(context: Context, made: OpenGarden, today: date) -> str:
    if made.audience == "class":
        return f"for {context.group_names(today).get(str(made.class_group_id), 'your class')}"
    return "for families" if made.audience == "families" else "for everybody"


def _bed(
    context: Context,
    bed: OpenBed,
    today: date,
    now: BedFromAbove,
    then: BedFromAbove | None,
    task: OpenTaskView | None,
    *,
    thanked: bool,
) -> OpenBedView:
    shown = bed.photos[:1] + bed.photos[1:][-3:]
    return OpenBedView(
        id=str(bed.bed.id),
        name=bed.bed.name,
        purpose=bed.bed.purpose,
        theirs=bed.theirs,
        now=now,
        then=then,
        photos=[_photo(p, f"Photo of {bed.bed.name}") for p in shown],
        plants=[_plant(context, one, today) for one in bed.told],
        task=task,
        thanked=thanked,
    )


def _plant(context: Context, one: OpenPlanting, today: date) -> OpenPlantView:
    picture = ""
    if one.is_up and one.dates is not None:
        picture = portraits.side_on(one.crop, today, one.dates, southern=context.school.southern)
    return OpenPlantView(told=one, name=f"{one.crop.name.en} {one.variety}".strip(), picture=picture)


def _task(
    bed: OpenBed,
    made: OpenGarden,
    given: list[tuple[UUID | None, str]],
    typed: HomeAnswerForm | None,
    error: BadInput | None,
) -> OpenTaskView | None:
    if bed.task is None:
        return None
    return OpenTaskView(
        task=bed.task,
        choices=[*sorted({one.crop.name.en for one in bed.told}), "something else"],
        answered=(bed.bed.id, made.tasks[str(bed.bed.id)]) in given,
        typed=typed or HomeAnswerForm(),
        error=error.message if error else "",
        error_field=error.field if error else "",
    )
