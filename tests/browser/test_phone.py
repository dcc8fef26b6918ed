"""The page for the phone in a real browser: a tour with the network cut in the middle, the page killed, two phones, a login that ends."""

import json
import re
from typing import Any

import pytest
from playwright.sync_api import Browser, Locator, Page, Route, expect

from tests.browser.conftest import PHONE, Visit, visit
from tests.database import bed_id

HELPER = pytest.mark.parametrize("working", [("helper", PHONE)], indirect=True)


def open_field(visit: Visit) -> Page:
    page = visit.go("/field/")
    expect(page.get_by_role("heading", name="Tour")).to_be_visible()
    # The service worker holds the page before anything is cut.
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.wait_for_function("caches.keys().then(names => names.length > 0)")
    return page


@HELPER
def test_a_tour_with_the_network_cut_in_the_middle_the_page_closed_and_everything_there_once(working: Visit) -> None:
    page = open_field(working)
    page.get_by_role("button", name="Start the tour").click()
    expect(page.locator("h1")).to_have_text("Bed 2")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    with page.expect_response("**/field/sync"):
        page.get_by_role("group", name="Pea up?").get_by_role("button", name="All").click()
    expect(page.locator(".field-pill")).to_have_text("All sent")

    working.context.set_offline(True)
    page.get_by_role("group", name="Leaf lettuce up?").get_by_role("button", name="Some").click()
    expect(page.locator(".field-pill")).to_have_text("No signal · 1 waiting")
    page.get_by_role("group", name="Leaf lettuce up?").get_by_role("button", name="Not yet").click()
    expect(page.locator(".field-pill")).to_have_text(
        "No signal · 1 waiting"
    )  # the answer was changed before it was sent
    page.get_by_role("button", name="Next: Bed 3").click()
    page.get_by_role("button", name="Pest").click()
    page.locator("#f-planting").select_option(index=1)
    page.locator("#f-what").fill("wheat midge")
    page.get_by_role("group", name="How bad").get_by_role("button", name="some").click()
    page.get_by_label(re.compile("What was done against it")).fill("picked off by hand")
    page.get_by_role("button", name="Keep this").click()
    expect(page.locator(".field-pill")).to_have_text("No signal · 2 waiting")
    page.get_by_role("button", name="Note", exact=True).click()
    page.get_by_label("What you saw").fill("Rooks on the straw bale")
    page.get_by_role("button", name="Keep this").click()
    page.get_by_role("button", name="Photo", exact=True).click()
    page.locator("#f-photo").set_input_files(
        {"name": "wheat.png", "mimeType": "image/png", "buffer": page.screenshot()}
    )
    page.get_by_role("button", name="Nobody").click()
    page.get_by_label("Words under it").fill("The wheat in April")
    page.get_by_role("button", name="Keep this").click()
    expect(page.locator(".field-pill")).to_have_text("No signal · 4 waiting")
    page.close()

    page = working.page = working.context.new_page()
    page.goto(working.base + "/field/")  # from the phone's own memory
    expect(page.locator(".field-pill")).to_have_text("No signal · 4 waiting")
    expect(page.get_by_role("heading", name="Tour")).to_be_visible()
    working.faults.clear()  # the browser says on its console that it had no network

    working.context.set_offline(False)
    page.get_by_role("button", name="Bring up to date").click()
    expect(page.locator(".field-pill")).to_have_text("All sent")
    page.get_by_role("button", name="Bring up to date").click()
    page = working.go("/journal")
    for once in ("Rooks on the straw bale", "wheat midge, some", "The wheat in April"):
        expect(page.locator(".entry-body", has_text=once)).to_have_count(1)
    expect(page.locator(".entry-body", has_text=re.compile("^up$"))).to_have_count(1)
    image = page.locator("img.entry-photo").first
    assert image.evaluate("e => e.complete && e.naturalWidth") == 166  # 360 high at most, upright


@HELPER
def test_two_pages_that_send_the_same_queue_enter_it_once(working: Visit) -> None:
    page = open_field(working)
    working.context.set_offline(True)
    page.get_by_role("button", name=re.compile("^Bed 1 ")).click()
    page.get_by_role("button", name="Visitors").click()
    page.locator("#f-what").fill("worms")
    page.locator("#f-amount").fill("7")
    page.get_by_role("button", name="Keep this").click()
    expect(page.locator(".field-pill")).to_have_text("No signal · 1 waiting")
    other = working.context.new_page()
    other.goto(working.base + "/field/")
    working.context.set_offline(False)
    for one in (page, other):
        one.evaluate("window.dispatchEvent(new Event('online'))")
    for one in (page, other):
        one.get_by_role("button", name=re.compile("waiting|sent|Sending")).click()
        expect(one.locator(".field-pill")).to_have_text("All sent")
    other.close()
    working.faults.clear()
    page = working.go("/journal?search=worms")
    expect(page.get_by_text("7 worms")).to_have_count(1)


def test_what_was_noted_waits_for_a_login_that_has_ended(browser: Browser, site: str) -> None:
    for helper in visit(browser, site, "helper", PHONE):
        page = open_field(helper)
        helper.context.clear_cookies()
        page.get_by_role("button", name=re.compile("^Bed 1 ")).click()
        page.get_by_role("button", name="Nothing new").click()
        expect(page.locator(".field-pill")).to_have_text("1 waiting for login")
        page.get_by_role("link", name="Log in", exact=True).click()
        page.fill("#login", "educator")
        page.fill("#password", "soup-day-2026")
        page.get_by_role("button", name="Log in").click()
        page.wait_for_url("**/field/")
        # Somebody else's login must not send it in her name.
        expect(page.locator(".field-pill")).to_have_text("1 waiting")
        page.locator(".field-pill").click()
        expect(page.locator("#main")).to_contain_text("1 entry of somebody else waits on this phone")
        expect(page.locator("#main")).not_to_contain_text("Runa")
        expect(page.locator(".field-list .field-card b").filter(has_text="nothing new")).to_have_count(0)
        # Nor change it, which would make it hers, nor throw it away.
        for name in ("Change", "Delete", "Send again"):
            expect(page.get_by_role("button", name=name)).to_have_count(0)
        helper.context.clear_cookies()
        page.goto(site + "/login?to=/field/")
        page.fill("#login", "helper")
        page.fill("#password", "soup-day-2026")
        page.get_by_role("button", name="Log in").click()
        page.wait_for_url("**/field/")
        expect(page.locator(".field-pill")).to_have_text("All sent")
        helper.faults.clear()  # the browser says on its console that the token was refused


def kept(page: Page) -> dict[str, int]:
    """How many things lie in each store of the phone."""
    return page.evaluate(
        """() => new Promise((resolve) => {
             const asked = indexedDB.open('almanaque-field', 1);
             asked.onsuccess = () => {
               const found = {}, all = asked.result.transaction(['queue', 'kept']);
               for (const name of ['queue', 'kept']) {
                 all.objectStore(name).count().onsuccess = (e) => { found[name] = e.target.result; };
               }
               all.oncomplete = () => { asked.result.close(); resolve(found); };
             };
           })"""
    )


def test_logging_out_takes_the_garden_from_the_phone_and_leaves_what_waits(browser: Browser, site: str) -> None:
    for helper in visit(browser, site, "helper", PHONE):
        page = open_field(helper)
        assert kept(page) == {"queue": 0, "kept": 1}
        helper.context.route("**/field/sync", lambda route: route.fulfill(status=503, body=""))
        page.get_by_role("button", name=re.compile("^Bed 1 ")).click()
        page.get_by_role("button", name="Nothing new").click()
        page.get_by_role("button", name="Home", exact=True).click()
        expect(page.locator(".field-pill")).to_contain_text("1 waiting")
        page.evaluate("window.dispatchEvent(new Event('online'))")
        page.get_by_role("button", name="Log out").click()
        page.wait_for_url("**/login")
        expect(page.locator("html")).to_have_attribute("data-wiped", "yes")
        assert kept(page) == {"queue": 1, "kept": 0}
        helper.context.set_offline(True)
        page.goto(site + "/field/")
        expect(page.locator("#main")).to_contain_text("This phone has no garden on it yet")
        helper.context.set_offline(False)
        helper.faults.clear()


@HELPER
def test_a_picking_in_three_taps_and_a_job_ticked_from_the_phone(working: Visit) -> None:
    page = open_field(working)
    page.get_by_role("button", name=re.compile("ready|Pick")).first.click()
    page.get_by_role("button", name="Radish, Half barrel").click()
    page.get_by_role("button", name="5 count", exact=True).click()
    page.get_by_role("button", name="Keep the picking").click()
    expect(page.locator(".message[role=status]")).to_have_text("The picking is kept.")
    with page.expect_response("**/field/snapshot"):
        page.get_by_role("button", name="Home").click()
    page.get_by_role("button", name=re.compile("^\\d+ jobs?$")).click()
    done = a_job(page).get_by_role("button", name="Done")
    done.click()
    expect(done).to_have_attribute("aria-pressed", "true")
    expect(page.locator(".field-pill")).to_have_text("All sent")


def a_job(page: Page) -> Locator:
    """The card of a job that no picking takes off the list, found by its name: the order may change under it."""
    cards = page.locator(".field-card:visible", has=page.get_by_role("button", name="Done"))
    return page.locator(
        ".field-card:visible", has=page.get_by_role("heading", name=cards.last.locator("h2").inner_text())
    )


@HELPER
def test_a_snapshot_asked_for_before_a_job_was_ticked_does_not_untick_it(working: Visit) -> None:
    page = open_field(working)
    held: list[Route] = []
    page.route("**/field/snapshot", lambda route: held.append(route))
    page.get_by_role("button", name=re.compile("^Bed 1 ")).click()
    with page.expect_request("**/field/snapshot"):
        page.get_by_role("button", name="Home").click()
    page.get_by_role("button", name=re.compile("^\\d+ jobs?$")).click()
    done = a_job(page).get_by_role("button", name="Done")
    older = page.request.get(working.base + "/field/snapshot").body()
    with page.expect_response("**/field/sync"):
        done.click()
    expect(page.locator(".field-pill")).to_have_text("All sent")
    page.evaluate("window.seen = Alpine.$data(document.querySelector('[x-data=field]')).snap")
    held[0].fulfill(body=older, content_type="application/json")
    page.wait_for_function("() => Alpine.$data(document.querySelector('[x-data=field]')).snap !== window.seen")
    expect(done).to_have_attribute("aria-pressed", "true")


@HELPER
def test_the_phone_page_has_no_accessibility_faults_in_any_of_its_views(working: Visit) -> None:
    page = open_field(working)
    assert working.axe() == []
    page.get_by_role("button", name="Start the tour").click()
    page.get_by_role("button", name="Pest").click()
    assert working.axe() == []
    for name in ("Pick",):
        page.get_by_role("button", name=name, exact=True).click()
        assert working.axe() == []
    page.locator(".field-pill").click()
    assert working.axe() == []
    small = [b for b in page.locator("button:visible").all() if (box := b.bounding_box()) and box["height"] < 32]
    assert small == []


def test_a_viewer_is_told_that_the_login_only_looks(browser: Browser, read_site: str) -> None:
    for viewer in visit(browser, read_site, "viewer", PHONE):
        page = viewer.go("/field/")
        expect(page.get_by_role("heading", name="This login only looks")).to_be_visible()
        viewer.faults.clear()


@HELPER
def test_a_phone_can_install_the_page(working: Visit) -> None:
    open_field(working)
    session = working.context.new_cdp_session(working.page)
    told = session.send("Page.getAppManifest")
    assert told["errors"] == []
    assert '"start_url": "/field/"' in told["data"] or '"start_url":"/field/"' in told["data"]
    found = session.send("Page.getInstallabilityErrors")["installabilityErrors"]
    assert [e["errorId"] for e in found if e["errorId"] != "in-incognito"] == []


@HELPER
def test_over_plain_http_the_page_says_that_it_cannot_be_kept(working: Visit) -> None:
    working.page.add_init_script("Object.defineProperty(window, 'isSecureContext', { get: () => false })")
    page = working.go("/field/")
    expect(page.get_by_text("reached Almanaque without https")).to_be_visible()


def queued(page: Page) -> list[dict[str, Any]]:
    """What the phone holds until the server has it."""
    return page.evaluate("FieldQueue.all()")


@HELPER
def test_a_button_pressed_twice_makes_one_entry(working: Visit) -> None:
    page = open_field(working)
    sent: list[str] = []
    page.on(
        "request",
        lambda asked: (
            sent.extend(e["kind"] for e in json.loads(asked.post_data or "{}").get("entries", []))
            if asked.url.endswith("/field/sync")
            else None
        ),
    )
    page.get_by_role("button", name=re.compile("^Bed 1 ")).click()
    page.get_by_role("button", name="Note", exact=True).click()
    page.get_by_label("What you saw").fill("Two robins")
    page.evaluate("const keep = document.getElementById('f-keep'); keep.click(); keep.click(); keep.click();")
    expect(page.locator(".message[role=status]")).to_have_text("Kept.")
    page.get_by_role("button", name="Photo", exact=True).click()
    page.locator("#f-photo").set_input_files({"name": "bed.png", "mimeType": "image/png", "buffer": page.screenshot()})
    page.get_by_role("button", name="Nobody").click()
    page.get_by_label("Words under it").fill("Pressed twice")
    page.evaluate("const keep = document.getElementById('f-keep'); keep.click(); keep.click();")
    expect(page.locator(".message[role=status]")).to_have_text("Kept.")
    page.get_by_role("button", name="Pick", exact=True).click()
    page.get_by_role("button", name="Radish, Half barrel").click()
    page.get_by_role("button", name="5 count", exact=True).click()
    keep = page.get_by_role("button", name="Keep the picking")
    keep.evaluate("button => { button.click(); button.click(); }")
    expect(page.locator(".message[role=status]")).to_have_text("The picking is kept.")
    expect(page.locator(".field-pill")).to_have_text("All sent")
    assert sent == ["note", "picking"]
    page = working.go("/journal")
    for once in ("Two robins", "Pressed twice"):
        expect(page.locator(".entry-body", has_text=once)).to_have_count(1)


@HELPER
def test_what_is_pressed_while_an_entry_is_being_kept_waits_for_it(working: Visit) -> None:
    page = open_field(working)
    page.evaluate(
        """() => {
          const put = FieldQueue.put;
          FieldQueue.put = (entry) => new Promise((done) => { setTimeout(done, 300); }).then(() => put(entry));
        }"""
    )
    page.get_by_role("button", name="Start the tour").click()
    page.get_by_role("button", name="Note", exact=True).click()
    page.get_by_label("What you saw").fill("A quick thumb")
    page.get_by_role("button", name="Keep this").click()
    page.get_by_role("button", name="Photo", exact=True).click()
    expect(page.get_by_label("Words under it")).to_be_visible()
    page.get_by_role("button", name="Leave it").click()
    page.get_by_role("button", name="Note", exact=True).click()
    page.get_by_label("What you saw").fill("And on")
    page.get_by_role("button", name="Keep this").click()
    page.get_by_role("button", name=re.compile("^Next: ")).click()
    expect(page.locator("h1")).to_have_text("Bed 3")
    expect(page.locator(".field-pill")).to_have_text("All sent")
    page = working.go("/journal")
    for once in ("A quick thumb", "And on"):
        expect(page.locator(".entry-body", has_text=once)).to_have_count(1)


@HELPER
def test_what_the_phone_cannot_keep_is_not_shown_as_noted(working: Visit) -> None:
    page = open_field(working)
    page.get_by_role("button", name="Start the tour").click()
    page.evaluate("() => { FieldQueue.put = () => Promise.reject(new DOMException('full', 'QuotaExceededError')); }")
    all_up = page.get_by_role("group", name="Pea up?").get_by_role("button", name="All")
    all_up.click()
    expect(page.locator(".message[role=status]")).to_contain_text("Not noted: this phone has no room to keep it")
    expect(all_up).to_have_attribute("aria-pressed", "false")
    page.get_by_role("button", name="Note", exact=True).click()
    page.get_by_label("What you saw").fill("Slugs")
    page.get_by_role("button", name="Keep this").click()
    expect(page.locator(".message[role=status]")).to_contain_text("Not noted")
    expect(page.get_by_label("What you saw")).to_have_value("Slugs")


@HELPER
def test_one_entry_that_the_server_cannot_read_holds_up_none_behind_it(working: Visit) -> None:
    page = open_field(working)
    working.context.set_offline(True)
    page.get_by_role("button", name=re.compile("^Bed 1 ")).click()
    for number, body in enumerate(("First of three", "Second of three", "Third of three"), start=1):
        page.get_by_role("button", name="Note", exact=True).click()
        page.get_by_label("What you saw").fill(body)
        page.get_by_role("button", name="Keep this").click()
        expect(page.locator(".field-pill")).to_have_text(f"No signal · {number} waiting")
    for number in (1, 2):
        page.get_by_role("button", name="Photo", exact=True).click()
        picture = {"name": "a.png", "mimeType": "image/png", "buffer": page.screenshot()}
        page.locator("#f-photo").set_input_files(picture)
        page.get_by_role("button", name="Nobody").click()
        page.get_by_label("Words under it").fill(f"Photo {number} of two")
        page.get_by_role("button", name="Keep this").click()
        expect(page.locator(".field-pill")).to_have_text(f"No signal · {3 + number} waiting")

    def chokes(route: Route) -> None:
        asked = route.request.post_data_buffer or b""
        if b"Second of three" in asked or b"Photo 1 of two" in asked:
            route.fulfill(status=413 if b"Photo" in asked else 422, body="no")
        else:
            route.continue_()

    page.route("**/field/sync", chokes)
    page.route("**/field/photos", chokes)
    working.context.set_offline(False)  # the page sends at once
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator(".field-pill")).to_have_text("2 need a look")
    page.locator(".field-pill").click()
    expect(page.get_by_text("The server could not read it (422).")).to_be_visible()
    expect(page.get_by_text("It is larger than the server takes.")).to_be_visible()
    page.unroute("**/field/sync")
    working.faults.clear()
    page = working.go("/journal")
    for kept in ("First of three", "Third of three", "Photo 2 of two"):
        expect(page.locator(".entry-body", has_text=kept)).to_have_count(1)


@HELPER
def test_a_form_that_was_begun_is_not_lost_by_going_on(working: Visit) -> None:
    page = open_field(working)
    page.get_by_role("button", name="Start the tour").click()
    page.get_by_role("button", name="Note", exact=True).click()
    page.get_by_label("What you saw").fill("Half a sentence")
    for way in (re.compile("^Next: "), "Back"):
        page.get_by_role("button", name=way).click()
        expect(page.get_by_text("Keep this or leave it first")).to_be_visible()
        expect(page.get_by_label("What you saw")).to_have_value("Half a sentence")
    page.get_by_role("button", name="Count", exact=True).click()  # another kind keeps what was typed
    expect(page.locator("#f-note")).to_have_value("Half a sentence")
    page.get_by_role("button", name="Leave it").click()
    page.get_by_role("button", name=re.compile("^Next: ")).click()
    expect(page.locator("h1")).to_have_text("Bed 3")


@HELPER
def test_what_waits_is_opened_changed_and_deleted_on_the_phone(working: Visit) -> None:
    page = open_field(working)
    working.context.set_offline(True)
    page.get_by_role("button", name=re.compile("^Bed 1 ")).click()
    page.get_by_role("button", name="Pest", exact=True).click()
    page.locator("#f-what").fill("snails")
    page.get_by_role("group", name="How bad").get_by_role("button", name="some").click()
    page.get_by_role("button", name="Keep this").click()
    page.get_by_role("button", name="Pick", exact=True).click()
    page.get_by_role("button", name="Radish, Half barrel").click()
    page.get_by_role("button", name="5 count", exact=True).click()
    page.get_by_role("button", name="Keep the picking").click()
    expect(page.locator(".field-pill")).to_have_text("No signal · 2 waiting")
    ids = sorted(entry["id"] for entry in queued(page))

    waiting = page.locator("li.field-card:visible")
    page.locator(".field-pill").click()
    waiting.filter(has_text="snails").get_by_role("button", name="Change").click()
    expect(page.locator("#f-what")).to_have_value("snails")
    page.locator("#f-what").fill("slugs")
    page.get_by_role("button", name="Keep this").click()
    expect(page.locator(".field-pill")).to_have_text("No signal · 2 waiting")
    page.locator(".field-pill").click()
    waiting.filter(has_text="Radish").get_by_role("button", name="Change").click()
    expect(page.locator("#p-amount")).to_have_value("5")
    page.locator("#p-amount").fill("6")
    page.get_by_role("button", name="Keep the picking").click()
    changed = queued(page)
    assert sorted(entry["id"] for entry in changed) == ids
    assert {entry["say"].get("what") or entry["say"].get("amount") for entry in changed} == {"slugs", "6"}
    assert not any(entry["held"] for entry in changed)
    # One that is left as it was is sent as it was, also when the page is closed over it.
    page.locator(".field-pill").click()
    waiting.filter(has_text="slugs").get_by_role("button", name="Change").click()
    page.reload()
    expect(page.locator(".field-pill")).to_have_text("No signal · 2 waiting")
    page.locator(".field-pill").click()
    waiting.filter(has_text="Radish").get_by_role("button", name="Delete").click()
    expect(page.locator(".field-pill")).to_have_text("No signal · 1 waiting")
    working.context.set_offline(False)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator(".field-pill")).to_have_text("All sent")
    working.faults.clear()
    page = working.go("/journal?search=slugs")
    expect(page.locator(".entry-body", has_text="slugs, some")).to_have_count(1)


@HELPER
def test_a_photo_is_taken_over_the_last_one_from_the_same_place_and_a_face_is_asked_about(working: Visit) -> None:
    page = open_field(working)
    page.context.grant_permissions(["camera"])
    page.get_by_role("button", name=re.compile("^Bed 1 ")).click()
    page.get_by_role("button", name="Photo", exact=True).click()
    page.get_by_label("From", exact=True).select_option(label="corner post")
    # Pressed twice it opens once, and it is closed when something else is noted.
    page.evaluate(
        """() => { const ask = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices); window.seen = [];
          navigator.mediaDevices.getUserMedia = (how) => ask(how).then((found) => { window.seen.push(found); return found; }); }"""
    )
    opens = page.get_by_role("button", name="Take it over the last one")
    opens.evaluate("button => { button.click(); button.click(); }")
    page.wait_for_function("() => document.getElementById('f-camera').videoWidth > 0")
    page.get_by_role("button", name="Note", exact=True).click()
    expect(page.locator("#f-camera")).to_be_hidden()
    assert page.evaluate("window.seen.map((one) => one.active)") == [False]
    page.get_by_role("button", name="Photo", exact=True).click()
    page.get_by_label("From", exact=True).select_option(label="corner post")
    opens.click()
    page.wait_for_function("() => document.getElementById('f-camera').videoWidth > 0")
    expect(page.locator("#f-last")).to_be_visible()
    assert float(page.locator("#f-last").evaluate("image => getComputedStyle(image).opacity")) < 0.5
    assert working.axe() == []
    page.get_by_role("button", name="Take it", exact=True).click()
    expect(page.get_by_text("A photo is ready to be kept.")).to_be_visible()
    page.get_by_label("Words under it").fill("From the post again")
    page.get_by_role("button", name="Keep this").click()
    expect(page.locator(".field-error").first).to_have_text("Say whether somebody can be recognised in it.")
    page.get_by_role("button", name="Somebody").click()
    expect(page.locator(".field-error").first).to_contain_text("it keeps no faces")
    page.get_by_role("button", name="Nobody").click()
    page.get_by_role("button", name="Keep this").click()
    expect(page.locator(".message[role=status]")).to_have_text("Kept.")
    expect(page.locator(".field-pill")).to_have_text("All sent")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    bed = working.go(f"/garden/beds/{bed_id('Bed 1')}")
    expect(bed.locator(".then-now figcaption").nth(1)).to_have_text("now, 14 Apr 2027")
