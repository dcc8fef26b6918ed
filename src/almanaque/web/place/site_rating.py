"""Garden: choosing a place by criteria, weights, and scores with the evidence behind them."""

from dataclasses import dataclass
from typing import Annotated, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.core.errors import BadInput
from almanaque.core.place import site_rating
from almanaque.core.place.site_rating import BEST_SCORE, CRITERIA, MOST_WEIGHT, Criterion, Score
from almanaque.data import kinds_of_place
from almanaque.store import errors
from almanaque.store.place import site_candidates
from almanaque.store.place.site_candidates import Candidate, CriterionRow, PlaceScore, Rater
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]


@router.get("/garden/places")
def rating(scope: Look, place: str = "", rater: str = "") -> Response:
    with scope.open() as work:
        return _page(work, place, rater)


@router.get("/garden/places/sheet")
def sheet(scope: Look) -> Response:
    """A sheet that a class fills in outdoors: every criterion with room for what was counted."""
    with scope.open() as work:
        rows = site_candidates.criteria(work.connection)
        criteria = [(r.name, r.how) for r in rows] or [(name, how) for name, _, how in CRITERIA]
        values = {
            "criteria": criteria,
            "places": [c.name for c in site_candidates.candidates(work.connection)],
            "scores": list(range(BEST_SCORE + 1)),
        }
        return frame.page(work, "garden", "Rate a place", values, template="place/site_rating_sheet.html")


class CandidateForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    kind: str = "raised"
    about: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/garden/places")
def save_candidate(scope: Plan, form: Annotated[CandidateForm, Form()]) -> Response:
    """Add, change or delete a place. The first one brings the usual criteria with it."""
    with scope.open() as work:
        place_id, school = forms.row_id(form.id), work.context.school.id
        if form.action == "delete":
            site_candidates.delete_candidate(work.connection, place_id)
            return frame.go(work, "/garden/places")
        known = site_candidates.candidates(work.connection)
        ordinal = next((c.ordinal for c in known if c.id == place_id), len(known) + 1)
        kind = forms.one_of(form.kind, [*kinds_of_place()], field="kind")
        site_candidates.save_candidate(
            work.connection, school, Candidate(place_id, ordinal, forms.name(form.name), kind, form.about.strip())
        )
        if not known and not site_candidates.criteria(work.connection):
            for n, (word, weight, how) in enumerate(CRITERIA, start=1):
                site_candidates.save_criterion(work.connection, school, CriterionRow(uuid4(), n, word, weight, how))
        return frame.go(work, "/garden/places", place=str(place_id))


class CriterionForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    weight: str = ""
    how: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/garden/places/criteria")
def save_criterion(scope: Plan, form: Annotated[CriterionForm, Form()]) -> Response:
    """Add, weigh or drop a criterion."""
    with scope.open() as work:
        criterion_id = forms.row_id(form.id)
        if form.action == "delete":
            site_candidates.delete_criterion(work.connection, criterion_id)
            return frame.go(work, "/garden/places")
        known = site_candidates.criteria(work.connection)
        before = next((c for c in known if c.id == criterion_id), None)
        row = CriterionRow(
            criterion_id,
            before.ordinal if before else len(known) + 1,
            forms.name(form.name, most=60),
            forms.whole(form.weight, field="weight", least=0, most=MOST_WEIGHT, what="weight"),
            form.how.strip() or (before.how if before else ""),
        )
        site_candidates.save_criterion(work.connection, work.context.school.id, row)
        return frame.go(work, "/garden/places")


class RaterForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    group: str = ""
    place: str = ""


@router.post("/garden/places/raters")
def save_rater(scope: Plan, form: Annotated[RaterForm, Form()]) -> Response:
    """Add a rater: a group, called as it is this school year, or a role; never a child's name."""
    with scope.open() as work:
        group_id = forms.optional_id(form.group)
        names = work.context.group_names(work.day)
        if group_id is not None and str(group_id) not in names:
            raise BadInput("place.no_such_group", field="group")
        year = work.context.calendar.year_of(work.day)
        of_group = f"{names[str(group_id)]}{f', {year.name}' if year else ''}" if group_id else ""
        shown = forms.name(form.name or of_group, what="name_or_group", most=60)
        rater = Rater(forms.row_id(form.id), shown, group_id)
        site_candidates.save_rater(work.connection, work.context.school.id, rater)
        return frame.go(work, "/garden/places", place=form.place, rater=str(rater.id))


@router.post("/garden/places/{place_id}/scores")
def save_scores(scope: Plan, place_id: UUID, rater: Annotated[str, Form()] = "") -> Response:
    """One rater's scores of one place, each with its evidence; what is left empty is not scored."""
    with scope.open() as work:
        rater_id = forms.row_id(rater)
        if place_id not in {c.id for c in site_candidates.candidates(work.connection)}:
            raise errors.NotFound("There is no such place in this school.")
        if rater_id not in {r.id for r in site_candidates.raters(work.connection)}:
            raise BadInput("place.rater_missing", field="rater")
        form = scope.request.state.form
        for criterion in site_candidates.criteria(work.connection):
            text = str(form.get(f"score_{criterion.id}", "")).strip()
            evidence = str(form.get(f"evidence_{criterion.id}", "")).strip()
            if not text:
                site_rating.check_unscored(criterion.name, evidence)
                continue
            score = forms.whole(
                text,
                field=f"score_{criterion.id}",
                least=0,
                most=BEST_SCORE,
                what="score",
                of=criterion.name,
            )
            site_rating.check_score(score, evidence)
            site_candidates.save_score(
                work.connection, work.context.school.id, PlaceScore(place_id, criterion.id, rater_id, score, evidence)
            )
        return frame.go(work, "/garden/places", place=str(place_id), rater=str(rater_id))


def _page(work: UnitOfWork, place: str, rater: str) -> Response:
    candidates, rows = site_candidates.candidates(work.connection), site_candidates.criteria(work.connection)
    raters, scores = site_candidates.raters(work.connection), site_candidates.scores(work.connection)
    kinds = kinds_of_place()
    by = next((r for r in raters if str(r.id) == rater), raters[0] if raters else None)
    criteria = [Criterion(str(r.id), r.name, r.weight) for r in rows]
    given = [Score(str(s.candidate_id), str(s.criterion_id), str(s.rater_id), s.score, s.evidence) for s in scores]
    ids, names = [str(c.id) for c in candidates], {str(c.id): c.name for c in candidates}
    ranked = site_rating.ranking(ids, criteria, given)
    chosen = place or (ranked[0].place if ranked else "")
    shown = next((c for c in candidates if str(c.id) == chosen), None)
    turnings = site_rating.turnings(ids, criteria, given)
    words_of = {c.id: c.name for c in criteria}
    weights = {c.id: c.weight for c in criteria}
    values = {
        "ranked": [
            {
                "id": s.place,
                "place": n,
                "name": names[s.place],
                "mean": f"{s.mean:.1f}" if s.mean is not None else "–",
                "bar": round(40 * (s.mean or 0), 1),
                "known": "" if s.scored == s.of else f"{s.scored} of {s.of} criteria scored",
                "means": [f"{s.by_criterion[c.id]:.1f}" if c.id in s.by_criterion else "–" for c in criteria],
            }
            for n, s in enumerate(ranked, start=1)
        ],
        "best": BEST_SCORE,
        "criteria": rows,
        "turns": [
            (
                f"{words_of[t.criterion]} weighs {weights[t.criterion]:.0f} now; "
                f"{'above' if t.above else 'below'} {t.weight:.1f}, {names[t.then]} leads instead of {names[t.now]}."
            )
            for t in turnings
        ],
        "steady": bool(ranked and len([s for s in ranked if s.mean is not None]) > 1 and not turnings),
        "kinds": list(kinds.values()),
        "kind_options": [(k.key, k.name) for k in kinds.values()],
        "shown": shown,
        "shown_kind": kinds.get(shown.kind) if shown else None,
        "raters": [(str(r.id), r.name) for r in raters],
        "rater": str(by.id) if by else "",
        "rater_name": by.name if by else "",
        "mine": _mine(shown, by, rows, scores),
        "said": _said(shown, rows, raters, scores),
        "new_id": str(uuid4()),
        "rater_id": str(uuid4()),
        "most_weight": MOST_WEIGHT,
        "group_options": [
            (str(g.id), work.context.group_names(work.day)[str(g.id)]) for g in work.context.groups_on(work.day)
        ],
        "summary": words.joined(
            [
                words.count(len(candidates), "place"),
                words.count(len(raters), "rater"),
                words.count(len(scores), "score"),
            ]
        ),
    }
    return frame.page(work, "garden", "Choose a place", values, template="place/site_rating.html")


@dataclass(frozen=True)
class MyScoreView(View):
    """Filled by `_mine`, read by its template."""

    id: str
    name: str
    how: str
    score: str
    evidence: str


def _mine(
    shown: Candidate | None, by: Rater | None, rows: list[CriterionRow], scores: list[PlaceScore]
) -> list[MyScoreView]:
    """The score sheet of one rater for one place."""
    found = {s.criterion_id: s for s in scores if shown and by and s.candidate_id == shown.id and s.rater_id == by.id}
    return [
        MyScoreView(
            id=str(r.id),
            name=r.name,
            how=r.how,
            score=str(found[r.id].score) if r.id in found else "",
            evidence=found[r.id].evidence if r.id in found else "",
        )
        for r in rows
    ]


def _said(
    shown: Candidate | None, rows: list[CriterionRow], raters: list[Rater], scores: list[PlaceScore]
) -> list[tuple[str, list[tuple[str, int, str]]]]:
    """What everybody scored for one place, by criterion, with the evidence."""
    if shown is None:
        return []
    names = {r.id: r.name for r in raters}
    return [
        (
            row.name,
            [
                (names[s.rater_id], s.score, s.evidence)
                for s in scores
                if s.candidate_id == shown.id and s.criterion_id == row.id
            ],
        )
        for row in rows
    ]
