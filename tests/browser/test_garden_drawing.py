"""The drawing that counts, in the real browser: right to the plant, the shade that moves, rival drafts, seasons, print, keys."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import Visit
from tests.browser.test_whole_job import drag
from tests.database import bed_id

FOUND = re.compile(r"(\d+\.\d) h")


def fill_bed(page: Page, **fields: str) -> None:
    for label, value in fields.items():
        page.locator(f"#bed-{label}").fill(value)


def pencil(page: Page, crop: str, first: str, last: str, method: str = "") -> None:
    page.locator("select[name=crop]").select_option(crop)
    expect(page.locator("#preview .verdict")).to_contain_text(re.compile(".+"))
    if method:
        page.locator("#method").select_option(method)
    drag(page, first, last)


def thing(page: Page, name: str) -> Locator:
    return page.locator(f".thing[aria-label^='{name}']")


def hours(page: Page, bed: str) -> float:
    label = page.locator(f".site-bed[aria-label^='{bed},']").get_attribute("aria-label")
    return float(FOUND.search(label or "")[1])  # type: ignore[index]


def test_a_part_of_five_by_three_feet_beside_an_old_currant_right_to_the_plant(working: Visit) -> None:
    page = working.go("/garden/beds/new")
    fill_bed(
        page,
        name="Bed 9",
        purpose="Kitchen",
        size="8 ft x 3 ft",
        depth="14 in",
        cell="12 in",
        at="24 ft x 31 ft",
        kept="Old currant: 3 ft x 3 ft at 5 ft x 0 ft",
    )
    page.get_by_role("button", name="Add the bed").click()
    expect(page.get_by_role("heading", name="Bed 9 · Kitchen")).to_be_visible()
    expect(page.locator("figcaption")).to_contain_text("15 squares · 9 kept")
    # Celery at 12 in: one to a square, five in a row of five feet.
    pencil(page, "celery", "A1", "E1", "starts")
    expect(page.locator("#said")).to_contain_text("Celery pencilled in: 5 plants in 5 squares")
    # Spinach nine to a square in the two squares left of the second and third row.
    pencil(page, "spinach", "A2", "B3")
    expect(page.locator("#said")).to_contain_text("Spinach pencilled in: 36 plants in 4 squares")
    # One courgette takes a block of 3 × 3; only 3 × 2 are left, which the sheet says before and after.
    pencil(page, "zucchini", "C2", "E3")
    expect(page.locator("#said")).to_contain_text("Courgette pencilled in: 0 plants")
    expect(page.locator(".margin-sheet")).to_contain_text("6 squares hold no plant")
    # By one's own count it is planted all the same, and the note says that the grown plant wants more room.
    page.get_by_text("rubs out").click()
    drag(page, "C2", "E3")
    page.get_by_text("pencils", exact=True).click()
    page.get_by_text("Spacing, number, among others").click()
    page.get_by_label("By", exact=True).select_option("packet")
    page.get_by_label("Apart, or spans").fill("24 in")
    page.get_by_label("Apart, or spans").press("Tab")
    expect(page.locator("#preview")).to_contain_text("By the packet.")
    drag(page, "D2", "E3")
    expect(page.locator("#said")).to_contain_text("Courgette pencilled in: 1 plant in 4 squares")
    expect(page.locator("figcaption")).to_contain_text("42 plants")
    assert page.locator(".planting image, .planting .sown-place").count() == 42


def test_a_shed_is_turned_and_its_shade_moves_and_a_felled_tree_gives_the_sun_back(working: Visit) -> None:
    page = working.go("/garden?show=sun&day=2027-01-20")
    before = hours(page, "Bed 8")
    page = working.go("/garden/map")
    shed = thing(page, "Tool shed")
    shed.click()
    box = shed.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2 - 60, box["y"] + box["height"] / 2 + 20, steps=6)
    page.mouse.move(box["x"] + box["width"] / 2 - 150, box["y"] + box["height"] / 2 + 61, steps=6)
    page.mouse.up()
    expect(page.locator("#map-said")).to_contain_text("Tool shed moved to")
    handle = page.locator(".map-handle.is-turn").bounding_box()
    page.mouse.move(handle["x"] + 7, handle["y"] + 7)
    page.mouse.down()
    page.mouse.move(handle["x"] + 70, handle["y"] + 60, steps=6)
    page.mouse.up()
    expect(page.locator("#map-said")).to_contain_text("Tool shed turned to")
    page = working.go("/garden?show=sun&day=2027-01-20")
    assert abs(hours(page, "Bed 8") - before) >= 0.1
    page.get_by_role("link", name="Change the map").click()
    page.get_by_text("Add something by its numbers").click()
    page.get_by_role("link", name="tree", exact=True).click()
    for label, value in (
        ("Name", "Plum"),
        ("Size, right x down", "6 ft x 6 ft"),
        ("Place, right x down", "45 ft x 15 ft"),
        ("Height", "20 ft"),
        ("Lower edge", "3 ft"),
        ("Gone from", "2027-06-10"),
    ):
        page.get_by_label(label, exact=True).first.fill(value)
    page.get_by_role("button", name="Put it on the map").click()
    expect(page.get_by_role("heading", name="Change Plum")).to_be_visible()
    expect(page.get_by_label("Gone from")).to_have_value("2027-06-10")
    page = working.go("/garden?show=sun&day=2027-06-09")
    shaded = hours(page, "Herb corner")
    page = working.go("/garden?show=sun&day=2027-06-10")
    assert hours(page, "Herb corner") > shaded + 1
    expect(page.get_by_text("Plum")).to_have_count(0)


def test_what_was_moved_is_put_back_and_a_move_off_the_map_is_refused(working: Visit) -> None:
    page = working.go("/garden/map")
    barrel = thing(page, "Rain barrel")
    place = barrel.get_attribute("data-x")
    barrel.focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#map-said")).to_contain_text("Rain barrel moved to 25 ft right, 2 ft down.")
    page.get_by_role("button", name="Undo: change Rain barrel").click()
    expect(page.locator("#map-said")).to_have_text("Taken back: change Rain barrel.")
    expect(thing(page, "Rain barrel")).to_have_attribute("data-x", str(place))
    thing(page, "Gate").focus()
    page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("Shift+ArrowLeft")
    expect(page.locator(".map-caption [role=alert]")).to_contain_text("Gate would lie outside the site.")
    expect(thing(page, "Gate")).to_have_attribute("data-x", "304.8")
    working.faults.clear()  # the browser's own word on the refusal


def test_three_drafts_of_one_bed_are_compared_and_parts_of_two_chosen(working: Visit) -> None:
    page = working.go(f"/garden/drafts/compare?bed={bed_id('Bed 2')}")
    spring = page.locator(".compare > section").filter(has_not_text="After the summer")  # that one is a plan for autumn
    expect(spring).to_have_count(3)
    ferns = page.locator(".compare > section", has_text="Ferns' plan")
    expect(ferns).to_contain_text("Sweet corn, 8 plants")
    expect(ferns).to_contain_text("Pole bean, 32 plants")
    expect(ferns).to_contain_text("Sweet corn: the bed is closed 7 Jun – 25 Jun")
    spring.get_by_label(re.compile("Carrot, 64 plants")).check()
    spring.get_by_label(re.compile("Radish, 128 plants")).check()
    page.get_by_role("button", name="Plan what is ticked in ink").click()
    expect(page.get_by_text(re.compile("both want A1 of Bed 2 at the same time"))).to_be_visible()
    working.faults.clear()
    page = working.go(f"/garden/drafts/compare?bed={bed_id('Bed 2')}")
    spring.get_by_label(re.compile("Carrot, 64 plants")).check()
    spring.get_by_label(re.compile("Chard")).check()
    page.get_by_role("button", name="Plan what is ticked in ink").click()
    expect(page.locator(".standing")).to_contain_text("Carrot planned from 20 Apr")
    expect(page.locator(".standing")).to_contain_text("Chard planned from 22 Apr")


def test_four_seasons_of_a_bed_and_the_map_on_paper(looking: Visit) -> None:
    page = looking.go(f"/garden/beds/{bed_id('Bed 1')}/seasons?day=2026-09-20")
    expect(page.locator(".compare > section")).to_have_count(4)
    expect(page.locator(".bed-small")).to_have_count(4)
    for path, codes in (("/garden/print", True), ("/garden/print?empty=true", False)):
        page = looking.go(path)
        assert (page.locator(".map-code", has_text="Ga").count() > 0) == codes
        page.emulate_media(media="print")
        pdf = page.pdf(format="Letter", landscape=True, print_background=True)
        assert pdf.count(b"/Type /Page\n") + pdf.count(b"/Type /Page ") == 1


def test_what_a_colleague_paints_comes_in_by_itself_and_keeps_my_choice(working: Visit, browser) -> None:
    mine = working.bed("Bed 4")
    expect(mine.locator("#news")).to_have_attribute("hx-trigger", "every 2s")
    mine.locator("[data-cell=A3]").focus()
    mine.keyboard.press("Space")
    theirs = browser.new_context(storage_state=working.context.storage_state()).new_page()
    theirs.goto(f"{working.base}/garden/beds/{bed_id('Bed 4')}")
    theirs.get_by_text("pencils", exact=True).click()
    drag(theirs, "A4", "B4")
    expect(theirs.locator("#said")).to_contain_text("Radish pencilled in")
    expect(mine.locator("#said")).to_contain_text("Meanwhile here: paint radish")
    expect(mine.locator("#squares")).to_have_value("A3")
    expect(mine.locator("[data-cell=A3]")).to_have_class(re.compile("is-chosen"))
    theirs.context.close()


def test_a_plan_is_dragged_to_other_squares(working: Visit) -> None:
    page = working.bed("Bed 4")
    drag(page, "A4", "B4")
    expect(page.locator("#said")).to_contain_text("Radish pencilled in")
    page.get_by_text("moves", exact=True).click()
    drag(page, "A4", "B3")
    expect(page.locator("#said")).to_have_text("1 plan moved.")
    expect(page.locator("[data-cell=C3]")).to_have_attribute("aria-label", re.compile("radish, pencilled"))
    page.get_by_role("button", name=re.compile("Undo: move radish")).click()
    expect(page.locator("#said")).to_have_text("Undone: move radish.")
    page.reload()
    page.get_by_role("button", name=re.compile("Redo: move radish")).click()
    expect(page.locator("#said")).to_have_text("Done again: move radish.")


def test_the_whole_with_the_keyboard_only(working: Visit) -> None:
    """A thing moved, turned and made longer on the map; a crop painted in rows, moved, undone and redone; a draft chosen."""
    page = working.go("/garden/map")
    thing(page, "Tool shed").focus()
    for key in ("t", "t", "Shift+ArrowLeft", "l"):
        page.keyboard.press(key)
    expect(page.locator("#map-said")).to_contain_text("Tool shed turned to 20°.")
    expect(thing(page, "Tool shed")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_label("Size, right x down")).to_have_value("7 ft x 4 ft")

    page = working.bed("Bed 4")
    page.locator("#crop").focus()
    page.keyboard.type("Leaf")
    page.keyboard.press("Enter")
    expect(page.locator("#preview")).to_contain_text("2 along, 4 in the square")
    page.locator(".spacing-more summary").focus()
    page.keyboard.press("Enter")
    page.locator("#arrangement").focus()
    page.keyboard.type("in r")
    expect(page.locator("#preview")).to_contain_text("in the row")
    page.locator("[data-cell=A1]").focus()
    for key in ("ArrowDown", "ArrowDown", "Shift+ArrowRight", "Shift+ArrowDown", "p"):
        page.keyboard.press(key)
    expect(page.locator("#said")).to_contain_text("Leaf lettuce pencilled in")
    expect(page.locator(".standing")).to_contain_text(re.compile(r"\d rows?, 12 in apart, 6 in in the row"))
    page.locator("[data-cell=A4]").focus()
    page.keyboard.press("m")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.locator("#said")).to_have_text("1 plan moved.")
    page.keyboard.press("u")
    expect(page.locator("#said")).to_contain_text("Undone: move leaf lettuce.")
    page.keyboard.press("r")
    expect(page.locator("#said")).to_contain_text("Done again: move leaf lettuce.")
    page = working.go(f"/garden/drafts/compare?bed={bed_id('Bed 4')}")
    page.locator("input[name=planting]").first.focus()
    page.keyboard.press("Space")
    page.get_by_role("button", name="Plan what is ticked in ink").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".standing")).to_contain_text("Leaf lettuce planned")
