"""People in the browser: from nothing by mouse and by keys, a log of doors, motion and telephones, a timetable, a wait."""

import re

from playwright.sync_api import expect

from tests.browser.test_eight_rooms import Hands
from tests.browser.test_sweep import BLACK, LEAST_PX, LOW, OVERLAPS, WIDTHS
from tests.browser.test_whole_job import Browsing
from warmeter.simulators.ferry_house import ferry_house
from warmeter.store.codec import home_to_json

PHONE = "time (UTC),Ilse telephone\n" + "".join(
    f"2026-01-{5 + k // 48:02d}T{k // 2 % 24:02d}:{30 * (k % 2):02d}:00Z,{'away' if 16 <= k % 48 < 34 else 'home'}\n"
    for k in range(48 * 4)
)


class People(Browsing):
    maxDiff = None

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        home, log = ferry_house()
        (cls.folder / "ferry.json").write_bytes(home_to_json(home))
        (cls.folder / "people.csv").write_text(log, encoding="utf-8")
        (cls.folder / "phone.csv").write_text(PHONE, encoding="utf-8")

    def bring_in(self) -> str:
        """Bring in Ferry House with its log of doors, motion, beds and telephones; return its path."""
        self.open("/")
        self.page.set_input_files("#bring-file", self.folder / "ferry.json")
        self.page.click("#bring-in")
        self.page.wait_for_url("**/survey?notice=*")
        home = self.page.url.removeprefix(self.served.address).split("/survey")[0]
        self.read_in(home, "people.csv")
        return home

    def test_from_nothing_by_mouse_a_telephone_s_log_finds_its_person(self) -> None:
        home, page = self.make_home("Peopled"), self.page
        self.open(f"{home}/zones")
        page.click("#pane-people")
        expect(page.locator("main")).to_contain_text("Is anybody there?")
        page.fill("#new-person", "Ilse")
        page.click("#add-person")
        expect(page.locator("#people")).to_contain_text("Ilse")
        expect(page.locator("main")).to_contain_text("Nothing tells of Ilse yet")
        page.select_option("#new-witness", "telephone")
        page.click("#add-witness")
        expect(page.locator("#aside")).to_contain_text("Ilse telephone")
        self.read_in(home, "phone.csv")
        self.open(f"{home}/people")
        expect(page.locator("#trust")).to_contain_text("as usual, 0.90")
        expect(page.locator("#strip-people")).to_be_visible()
        page.click("#day-before")
        expect(page.locator("main")).to_contain_text(re.compile("07/01|07 Jan|7 Jan"))
        page.click("#part-who")
        expect(page.locator("#people")).to_contain_text("told 30 min before")
        self.assert_accessible()

    def test_a_rule_asks_first_and_what_is_answered_is_seen(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/rules")
        page.click("#start-left-open-usual")
        page.wait_for_selector("#add-step")
        page.select_option("[aria-label='Kind of step']", "ask")
        page.click("#add-step")
        expect(page.locator("#b-1-then-1-answer0")).to_have_text("“go ahead”")
        self.fill("b-1-then-1-text", "Nobody is in. Shall the neighbour look?")
        self.fill("b-1-then-1-answer2", "I am near")
        self.fill("b-1-then-1-within", "1 min")
        expect(page.locator("div.wm-came")).to_contain_text("Answer without effect")
        # The rule that follows upon the answer, by keys alone.
        page.click("#write-rule")
        hands = Hands(self)
        hands.tab_to("#new-name")
        hands.write("Neighbour told")
        hands.press("Enter")
        expect(page.locator("#saved b")).to_contain_text("Neighbour told begun")
        hands.tab_to("#b-2-watch-0-0-of")
        hands.press("Enter")
        page.locator("#fill").select_option(label="a fact that was marked")
        hands.press("Enter")
        expect(page.locator("#b-2-watch-0-0-word")).to_be_visible()
        hands.tab_to("#b-2-watch-0-0-word")
        hands.press("Enter")
        page.wait_for_selector("#keep-blank")
        page.keyboard.press("Control+a")
        hands.write("go ahead")
        hands.press("Enter")
        expect(page.locator("#b-2-watch-0-0-word")).to_contain_text("go ahead")
        page.click("#people")
        questions = page.locator("#questions")
        expect(questions).to_contain_text("Shall the neighbour look?")
        expect(questions).to_contain_text(re.compile(r"asked \d"))
        questions.get_by_label("On which day", exact=False).fill("2026-02-01")
        questions.get_by_label("At what time", exact=False).fill("03:00")
        questions.get_by_role("button", name="I am near").click()
        expect(questions).to_contain_text("did not count")
        self.assert_accessible()
        questions.get_by_role("button", name="remove it").click()
        expect(questions).not_to_contain_text("did not count")

    def fill(self, slot: str, text: str) -> None:
        """Fill a blank of the sentence and wait until it stands."""
        self.page.click(f"#{slot}")
        self.page.fill("#fill", text)
        self.page.click("#keep-blank")
        self.page.wait_for_selector("#keep-blank", state="detached")

    def test_holidays_and_collection_days_are_looked_at_by_a_rule(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/timetable?pane=dates")
        page.click("#public-holidays")
        expect(page.locator("#occasions")).to_contain_text("Public holidays")
        hands = Hands(self)
        hands.tab_to("#occasion-name")
        hands.write("Paper collection")
        page.select_option("#occasion-what", "collection")
        page.select_option("#occasion-on", "3")
        page.fill("#occasion-weeks", "2")
        page.fill("#occasion-from", "2026-01-08")
        hands.tab_to("#occasion-add")
        hands.press("Enter")
        expect(page.locator("#occasions")).to_contain_text("Paper collection")
        expect(page.locator("#next-days")).to_contain_text("Paper collection")
        # School, but not on holidays: the year shows what wins.
        page.fill("#occasion-name", "School")
        page.select_option("#occasion-what", "school")
        page.select_option("#occasion-on", "workdays")
        page.fill("#occasion-from", "2026-01-07")
        page.click("#occasion-more summary")
        page.select_option("#occasion-except", label="Public holidays")
        page.click("#occasion-add")
        expect(page.locator("#occasions")).to_contain_text("not on Public holidays")
        expect(page.locator("#year .wm-year-kind title").first).to_contain_text("Public holidays wins")
        page.click("#calendar-file summary")
        page.fill("#calendar-name", "Work at home")
        event = b"BEGIN:VEVENT\r\nUID:1\r\nSUMMARY:Desk\r\nDTSTART;VALUE=DATE:20260303\r\nEND:VEVENT\r\n"
        whole = b"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n" + event + b"END:VCALENDAR\r\n"
        page.set_input_files("#calendar-ics", {"name": "mine.ics", "mimeType": "text/calendar", "buffer": whole})
        page.click("#calendar-read")
        expect(page.locator("#occasions")).to_contain_text("Work at home")
        expect(page.locator("#notice")).to_contain_text("1 day of 1 event")
        self.assert_accessible()
        self.open(f"{home}/rules")
        page.fill("#new-name", "Paper out")
        page.click("#new-blank")
        page.click("#b-1-watch-0-0-of")
        page.locator("#fill").select_option(label="Paper collection")
        expect(page.locator("#b-1-watch-0-0-day")).to_have_text("today")
        page.click("#b-1-watch-0-0-day")
        page.locator("#fill").select_option(label="tomorrow")
        expect(page.locator("#b-1-watch-0-0-day")).to_have_text("tomorrow")
        page.click("#zoom-month")
        page.wait_for_url(re.compile("from=2026-01-04"))
        # Every second Thursday from 8 January: the evenings before are those of 7 and 21 January.
        expect(page.locator("p.wm-came")).to_contain_text("Triggered 2 times")

    def test_a_person_and_a_witness_by_keys_alone(self) -> None:
        home, page = self.make_home("Typed people"), self.page
        self.open(f"{home}/people")
        hands = Hands(self)
        hands.tab_to("#new-person")
        hands.write("Bram")
        hands.press("Enter")
        expect(page.locator("#people")).to_contain_text("Bram")
        hands.tab_to("#new-witness")
        page.keyboard.type("own")
        hands.tab_to("#add-witness")
        hands.press("Enter")
        expect(page.locator("#aside")).to_contain_text("own word")
        hands.tab_to("[id^=hold-in-]")
        hands.write("45")
        hands.press("Tab")
        expect(page.locator("#saved b")).to_contain_text("own word changed")
        hands.press("Escape")
        page.locator("body").evaluate("body => document.activeElement.blur()")
        hands.press("u")
        expect(page.locator("[id^=hold-in-]")).to_have_value("")

    def test_a_profile_becomes_a_timetable_and_a_wait_is_taken(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/people?part=use&room=bedroom")
        expect(page.locator("#aside")).to_contain_text("people mostly keep still there")
        page.click("#take-workday")
        expect(page.locator("#saved b")).to_contain_text("written from when it is used")
        self.open(f"{home}/people?part=wait&room=kitchen")
        before = page.inner_text("#wait-words")
        page.fill("#wrong_off", "1")
        page.locator("#wrong_off").press("Tab")
        expect(page.locator("#wait-words")).not_to_have_text(before)
        page.click("#use-wait")
        expect(page.locator("#saved b")).to_contain_text("Kitchen is empty")
        page.locator("#idle-thing").select_option(label="Kitchen panel")
        page.click("#write-idle-rule")
        expect(page.locator("#saved b")).to_contain_text("Kitchen panel, Kitchen empty written")
        page.click("#part-arrival")
        expect(page.locator("#arrival-lead")).to_contain_text("it takes")
        page.fill("#outdoor_c", "-10")
        page.locator("#outdoor_c").press("Tab")
        expect(page.locator("#outdoor_c")).to_have_value(re.compile("10"))
        page.select_option("#assurance", "70")
        expect(page.locator("#arrival-ways tr.is-on")).to_have_count(1)
        self.assert_accessible()
        page.click("#part-ways")
        expect(page.locator("#ways")).to_contain_text("door and motion")
        self.assert_accessible()
        self.open(f"{home}/rules?pane=start")
        expect(page.locator("main")).to_contain_text("Everyone out")

    def test_ways_of_a_starter_are_compared_on_the_log(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/rules?pane=start")
        page.click("#ways-everyone-out")
        expect(page.locator("#ways-against")).to_contain_text("nobody in for an hour")
        hands = Hands(self)
        page.select_option("#ways-starter", "left-on")
        ways = page.locator("#rule-ways")
        expect(ways).to_contain_text("Ask, then cut")
        told = ways.locator("tr", has_text="Tell only")
        before = told.inner_text()
        hands.tab_to("#ways-comes_min")
        hands.write("5")
        hands.press("Tab")
        # Whoever comes sooner ends it sooner.
        expect(told).not_to_have_text(before)
        hands.tab_to("#ways-away_h")
        hands.write("730")
        hands.press("Tab")
        expect(page.locator("#ways-internet")).to_contain_text(re.compile(r"internet 3\S* of 3"))
        self.assert_accessible()
        for width in (WIDTHS[0], WIDTHS[-1]):
            page.set_viewport_size({"width": width, "height": 800})
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), width)

    def test_every_part_at_every_width(self) -> None:
        home = self.bring_in()
        found = {}
        for width in WIDTHS:
            self.page.set_viewport_size({"width": width, "height": 800})
            for part in ("day", "who", "use", "wait", "arrival", "ways"):
                self.open(f"{home}/people?part={part}")
                wide = self.page.evaluate("document.documentElement.scrollWidth")
                faults = self.page.evaluate(OVERLAPS) + self.page.evaluate(LOW, LEAST_PX) + self.page.evaluate(BLACK)
                if wide > width or faults:
                    found[f"{part} at {width}"] = (wide, faults)
                if width in (WIDTHS[0], WIDTHS[-1]):
                    self.assert_accessible()
        self.assertEqual("\n".join(f"{k}: {v}" for k, v in found.items()), "")
