"""The bed sheet and the ribbon without a pointer."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Visit
from tests.browser.slow_answers import slow_answers
from tests.database import bed_id


def test_squares_are_chosen_painted_inked_rubbed_out_and_undone_by_keys(working: Visit) -> None:
    page = working.bed("Bed 4")
    page.locator("[data-cell=A1]").focus()
    for key in ("ArrowDown", "ArrowDown", "ArrowDown"):
        page.keyboard.press(key)
    expect(page.locator("[data-cell=A4]")).to_be_focused()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator(".cell.is-chosen")).to_have_count(2)
    page.keyboard.press("p")
    expect(page.locator("#said")).to_contain_text("in 2 squares")
    expect(page.locator("[data-cell=B4]")).to_be_focused()
    page.keyboard.press("x")
    expect(page.locator("#said")).to_have_text("1 square rubbed out.")
    expect(page.locator("#announce")).to_have_text("1 square rubbed out.")
    page.keyboard.press("u")
    expect(page.locator("#said")).to_have_text("Undone: rub out 1 square.")
    page.keyboard.press("Space")
    expect(page.locator("#squares")).to_have_value("B4")
    page.keyboard.press("Escape")
    expect(page.locator(".cell.is-chosen")).to_have_count(0)


def test_the_live_count_follows_the_chosen_squares(working: Visit) -> None:
    page = working.bed("Bed 4", "?crop=kale")
    page.locator("[data-cell=C3]").focus()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+ArrowDown")
    expect(page.locator("#preview")).to_contain_text("1 plant in 4 squares")
    expect(page.locator("#preview")).to_contain_text("1 in every block of 2 × 2 squares")


def test_a_count_that_waits_for_a_slow_one_is_asked_for_though_what_fits_is_too(working: Visit) -> None:
    page = working.bed("Bed 4", "?crop=kale")
    with slow_answers(page, re.compile(r"/choice\?.*only=preview")) as counts:
        page.locator("[data-cell=C3]").focus()
        page.keyboard.press("Shift+ArrowRight")
        first = counts.one_asked()
        page.keyboard.press("Shift+ArrowDown")
        page.wait_for_timeout(800)  # in which the shelf of what fits there asks too
        counts.answer(first)
        counts.answer()
        expect(page.locator("#preview")).to_contain_text("1 plant in 4 squares")


def test_a_kept_square_cannot_be_chosen(working: Visit) -> None:
    page = working.bed("Bed 3")
    page.locator("[data-cell=G1]").focus()
    page.keyboard.press("Space")
    expect(page.locator(".cell.is-chosen")).to_have_count(0)


def test_brackets_move_the_ribbon_a_day(looking: Visit) -> None:
    page = looking.go("/week")
    page.keyboard.press("]")
    page.wait_for_url("**/week?day=2027-04-15")
    page.keyboard.press("[")
    page.wait_for_url(re.compile("/week$"))


def test_the_slider_moves_with_the_arrows_and_says_the_day(looking: Visit) -> None:
    page = looking.go("/year")
    slider = page.get_by_role("slider", name="Day of the school year")
    expect(slider).to_have_attribute("aria-valuetext", re.compile("Spring term · Wed 14 Apr"))
    slider.focus()
    page.keyboard.press("ArrowUp")
    page.wait_for_url("**/year?day=2027-04-21")


def test_dragging_the_ribbon_shows_that_day_on_every_page(looking: Visit) -> None:
    page = looking.go("/week")
    box = page.locator(".ribbon-picture").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.64, box["y"] + 30)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.2, box["y"] + 30, steps=5)
    page.mouse.up()
    page.wait_for_url(re.compile(r"day=2026-1[01]-\d\d"))
    page.get_by_role("link", name="Garden").click()
    page.wait_for_url(re.compile(r"/garden\?day=2026-1[01]-\d\d"))


def test_the_question_mark_lists_the_keys(looking: Visit) -> None:
    page = looking.bed("Bed 1")
    page.locator("main").focus()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("pencil the crop in")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog", name="Keys")).to_be_hidden()


def test_the_first_stop_of_the_tab_key_skips_to_the_page(looking: Visit) -> None:
    page = looking.go("/harvest")
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="Skip to the page")).to_be_focused()
    page.keyboard.press("Enter")
    assert page.evaluate("document.activeElement.id") == "main"


def test_what_the_margin_offers_is_taken_with_one_press(working: Visit) -> None:
    page = working.bed("Bed 4")
    page.fill("#squares", "A4")
    page.fill("#start-on", "2027-06-02")
    page.get_by_role("button", name="Pencil in").click()
    note = page.locator(".margin-note", has_text="Radish: ready")
    note.get_by_role("button").first.click()
    expect(page.locator("#said")).to_contain_text("Moved to")
    expect(page.locator(".margin-note", has_text="Radish: ready")).to_have_count(0)


def test_a_refusal_is_said_where_messages_stand_and_the_sheet_stays(working: Visit) -> None:
    page = working.go(f"/garden/beds/{bed_id('Bed 4')}")
    page.fill("#squares", "Z9")
    page.click("button:has-text('Pencil in')")
    expect(page.locator("#said")).to_contain_text("Z9 is outside this bed; its last square is F4.")
    expect(page.locator(".bed-picture")).to_be_visible()
    expect(page.locator("#squares")).to_have_value("Z9")


def test_rows_are_typed_by_their_numbers(working: Visit) -> None:
    page = working.bed("Bed 4")
    page.fill("#squares", "row 1, row 3")
    expect(page.locator("#preview")).to_contain_text("12 squares")
    page.get_by_role("button", name="Pencil in").click()
    expect(page.locator("#said")).to_contain_text("Radish pencilled in")


def test_a_press_counts_though_the_page_moves_under_it(working: Visit) -> None:
    page = working.bed("Bed 4")
    page.fill("#squares", "F3-F4")
    expect(page.locator("#preview")).to_contain_text("2 squares")
    button = page.get_by_role("button", name="Pencil in")
    button.scroll_into_view_if_needed()
    at = button.bounding_box()
    assert at is not None
    page.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    page.mouse.down()
    page.evaluate("""() => {
      const line = document.createElement('p');
      line.textContent = 'an answer that came in';
      line.className = 'preview';
      document.querySelector('#paint .paint-buttons').before(line, line.cloneNode(true), line.cloneNode(true));
    }""")
    moved = button.bounding_box()
    assert moved is not None
    assert moved["y"] > at["y"] + at["height"]
    page.mouse.up()
    expect(page.locator("#said")).to_contain_text("in 2 squares")


def test_a_press_counts_though_what_was_pressed_is_drawn_anew_under_it(working: Visit) -> None:
    page = working.bed("Bed 4")
    link = page.get_by_role("link", name="Soil", exact=True)
    at = link.bounding_box()
    assert at is not None
    page.mouse.move(at["x"] + 5, at["y"] + 5)
    page.mouse.down()
    page.evaluate(
        "() => { const head = document.querySelector('.page-head'); head.replaceWith(head.cloneNode(true)); }"
    )
    page.mouse.up()
    expect(page).to_have_url(re.compile("/soil$"))


@pytest.mark.parametrize("busy", [False, True])
def test_a_press_begun_while_its_form_is_under_way_sends_nothing_when_the_answer_draws_it_anew(
    working: Visit, busy: bool
) -> None:
    page = working.bed("Bed 4")
    page.fill("#squares", "F3-F4")
    button = page.get_by_role("button", name="Pencil in")
    button.scroll_into_view_if_needed()
    at = button.bounding_box()
    assert at is not None
    button.evaluate(
        """(button, busy) => {
          window.sent = 0;
          document.addEventListener('click', event => { window.sent += 1; event.preventDefault(); event.stopPropagation(); }, true);
          if (busy) { button.form.setAttribute('aria-busy', 'true'); }
        }""",
        busy,
    )
    page.mouse.move(at["x"] + 5, at["y"] + 5)
    page.mouse.down()
    button.evaluate(
        "button => { const form = button.form; form.removeAttribute('aria-busy'); form.replaceWith(form.cloneNode(true)); }"
    )
    page.mouse.up()
    page.wait_for_timeout(100)
    assert page.evaluate("window.sent") == (0 if busy else 1)


def test_a_press_that_is_drawn_away_from_its_button_counts_for_nothing(working: Visit) -> None:
    page = working.bed("Bed 4")
    page.fill("#squares", "F3-F4")
    at = page.get_by_role("button", name="Pencil in").bounding_box()
    assert at is not None
    page.mouse.move(at["x"] + 5, at["y"] + 5)
    page.mouse.down()
    page.mouse.move(at["x"] + 5, at["y"] - 60)
    page.mouse.up()
    expect(page.locator("#said")).to_have_text("")


def test_a_crop_is_found_by_any_part_of_a_name_in_any_language_with_the_keyboard(working: Visit) -> None:
    page = working.bed("Bed 4")
    box = page.get_by_role("combobox", name="Crop")
    box.focus()
    page.keyboard.press("ArrowDown")
    listed = page.get_by_role("listbox", name="Crop")
    expect(listed).to_be_visible()
    expect(box).to_have_attribute("aria-expanded", "true")
    expect(listed).to_contain_text("Fits now")
    for typed, found in (
        ("zanah", "Carrot"),
        ("daucus", "Carrot"),
        ("tom", "Tomato"),
        ("zucch", "Courgette (zucchini)"),
        ("swiss", "Chard (Swiss chard)"),
        ("green bean", "Bush bean (green bean)"),
        ("nothing such", "Nothing of that name"),
    ):
        box.fill(typed)
        expect(listed).to_contain_text(found)
    box.fill("leaf")
    expect(page.get_by_role("option").first).to_have_attribute("data-value", "lettuce")
    expect(listed).to_contain_text("Chard (leaf beet)")
    box.fill("zanahoria")
    option = page.get_by_role("option", name="Carrot")
    expect(box).to_have_attribute("aria-activedescendant", option.get_attribute("id") or "none")
    page.keyboard.press("Enter")
    expect(listed).to_be_hidden()
    expect(box).to_have_value("Carrot")
    expect(page.locator("select[name=crop]")).to_have_value("carrot")
    expect(page.locator("#preview")).to_contain_text("Carrot")
    box.fill("rad")
    page.keyboard.press("Escape")
    expect(box).to_have_value("Carrot")
    assert working.axe() == []


def test_other_names_that_come_late_are_found_by_what_was_typed_before(working: Visit) -> None:
    page = working.bed("Bed 4")
    with slow_answers(page, re.compile("/crops/words")) as names:
        box = page.get_by_role("combobox", name="Crop")
        box.focus()
        box.fill("zucch")
        listed = page.get_by_role("listbox", name="Crop")
        expect(listed).to_contain_text("Nothing of that name")
        names.answer()
        expect(listed).to_contain_text("Courgette (zucchini)")


def test_a_refusal_stands_by_its_field_and_the_page_stays_where_it_is(working: Visit) -> None:
    page = working.go("/garden/beds/new")
    page.get_by_label("Name").fill("Bed 9")
    depth = page.get_by_label("Depth of soil")
    depth.fill("very deep")
    at = depth.bounding_box()
    page.get_by_role("button", name="Add the bed").click()
    expect(page.locator("#bed-depth + .field-error")).to_contain_text("very deep")
    expect(depth).to_have_attribute("aria-invalid", "true")
    expect(depth).to_be_focused()
    now = depth.bounding_box()
    assert now is not None
    assert at is not None
    assert (now["x"], now["y"]) == (at["x"], at["y"])
    expect(page.get_by_label("Name")).to_have_value("Bed 9")
    depth.fill("11 in")
    page.get_by_role("button", name="Add the bed").click()
    expect(page.locator(".field-error")).to_have_count(0)
    working.faults.clear()  # the browser's own word on the refusal
