"""Rules in the real interface: written from blank, mended, replayed over a month, tuned, handed over; by mouse and by keyboard."""

import json
import re
from dataclasses import replace

from playwright.sync_api import expect

from tests.browser.test_whole_job import Browsing
from warmeter.service.homes.demo import demo_home
from warmeter.simulators.cottage import cottage_logs
from warmeter.store.codec import home_to_json


class Rules(Browsing):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        home = demo_home("weir-cottage")
        (cls.folder / "cottage.json").write_bytes(home_to_json(replace(home, rules=(), notification_groups=())))
        for log in cottage_logs(home):
            (cls.folder / log.file_name).write_text(log.text, encoding="utf-8")

    def bring_in(self) -> str:
        """Bring in the cottage without rules, with a month of what opened and how warm it was; return its path."""
        page = self.page
        self.open("/")
        page.set_input_files("#bring-file", self.folder / "cottage.json")
        page.click("#bring-in")
        page.wait_for_url("**/survey?notice=*")
        home = page.url.removeprefix(self.served.address).split("/survey")[0]
        for file in ("weir-cottage-events.csv", "weir-cottage-climate.csv"):
            self.read_in(home, file)
        return home

    def expect_saved(self, words: str) -> None:
        expect(self.page.locator("#saved b")).to_contain_text(words)

    def sentence(self) -> str:
        return re.sub(r"\s+", " ", self.page.inner_text(".wm-rules > .is-on .wm-sent >> nth=0"))

    def test_opening_then_idle_put_back_by_mouse(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/rules")
        page.fill("#new-name", "Kitchen opened")
        page.click("#new-blank")
        self.expect_saved("Kitchen opened begun, suspended")
        page.click("#b-1-watch-0-0-of")
        page.locator("#fill").select_option(label="Kitchen window")
        expect(page.locator("#b-1-watch-0-0-of")).to_have_text("Kitchen window")
        page.click("#b-1-then-0-targets")
        page.locator(".wm-fillmany").get_by_label("Kitchen").check()
        page.locator(".wm-fillmany").get_by_label("Parlour").uncheck()
        page.click("#keep-blank")
        self.expect_saved("what it acts on is Kitchen")
        # What it forgets is found on the part of the sentence, with a mend to accept.
        findings = page.locator(".wm-came .wm-find:not(.wm-suspended)")
        expect(findings).to_have_count(2)
        page.get_by_role("button", name="Put it back when it is over").click()
        self.expect_saved("put it back when it is over")
        page.get_by_role("button", name="Wait 2 min").click()
        self.expect_saved("wait 2 min")
        expect(findings).to_have_count(0)
        self.assertIn("changes to open for 2 min then set Kitchen to Idle", self.sentence())
        self.assertIn("put back when Kitchen window is closed for 1 min.", self.sentence())
        page.click("#zoom-month")
        page.wait_for_url(re.compile("from=2026-01-16"))
        expect(page.locator("#strip-rule")).to_be_visible()
        fired = page.locator("#strip-rule .wm-fired").count()
        self.assertGreater(fired, 10)
        # One changed blank is seen at once.
        page.click("#b-1-for")
        page.fill("#fill", "20 min")
        page.click("#keep-blank")
        self.expect_saved("20 min")
        expect(page.locator("#b-1-for")).to_have_text("20 min")
        self.assertLess(page.locator("#strip-rule .wm-fired").count(), fired)
        page.click("#tune")
        page.wait_for_selector("#tuned")
        page.fill("#tune-over", "8")
        page.keyboard.press("Tab")
        page.wait_for_url(re.compile("over_min=8"))
        self.assertIn("0 of", page.inner_text("#tuned"))
        page.click("#take-tuned")
        self.expect_saved("taken from the map")
        self.assertNotIn("20 min", self.sentence())
        page.click("#rules-sheet")
        page.wait_for_url("**/rules/sheet")
        sheet = page.inner_text(".wm-rulesheet")
        self.assertIn("set Kitchen to 9.0 °C (Idle)", sheet)
        # A relay holds no temperature: that is not typed into it, and said.
        self.assertIn("Cannot be held. Kitchen heater relay: It knows on and off only", sheet)
        page.emulate_media(media="print")
        self.assertTrue(page.locator(".wm-typed").is_visible())
        self.assertFalse(page.locator(".wm-spine").is_visible())

    def test_the_same_by_keyboard_alone(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/survey")
        page.keyboard.press("7")
        page.wait_for_url("**/rules")
        page.locator("#new-name").focus()
        page.keyboard.type("Guest room opened")
        page.keyboard.press("Enter")
        self.expect_saved("Guest room opened begun, suspended")
        page.locator("#b-1-watch-0-0-of").focus()
        page.keyboard.press("Enter")
        expect(page.locator("#fill")).to_be_focused()
        page.keyboard.type("Guest window")
        page.keyboard.press("Enter")
        expect(page.locator("#b-1-watch-0-0-of")).to_have_text("Guest window")
        expect(page.locator("#b-1-watch-0-0-of")).to_be_focused()
        page.locator("#b-1-for").focus()
        page.keyboard.press("Enter")
        expect(page.locator("#fill")).to_be_focused()
        page.keyboard.type("3 fathoms")
        page.keyboard.press("Enter")
        expect(page.locator("#notice")).to_contain_text("no length of time")
        expect(page.locator("#fill")).to_have_value("3 fathoms")
        expect(page.locator("#fill")).to_be_focused()
        page.keyboard.press("Control+a")
        page.keyboard.type("3 min")
        page.keyboard.press("Enter")
        self.expect_saved("3 min")
        page.locator("#b-1-then-0-targets").focus()
        page.keyboard.press("Enter")
        expect(page.locator("#fill")).to_be_focused()
        page.keyboard.press("Escape")
        expect(page.locator("#fill")).to_have_count(0)
        page.locator("#add-put_back").focus()
        page.keyboard.press("Enter")
        self.expect_saved("put back when")
        page.locator("#zoom-month").focus()
        page.keyboard.press("Enter")
        page.wait_for_url(re.compile("from=2026-01-16"))
        page.locator("#tune").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("#tuned, .wm-tune .wm-find")
        page.keyboard.press("u")
        self.expect_saved("Undone")
        page.locator("#rules-sheet").focus()
        page.keyboard.press("Enter")
        page.wait_for_url("**/rules/sheet")

    def test_a_starter_is_filled_suspended_moved_and_taken_out(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/rules")
        page.select_option("#place-opening", label="Parlour door")
        page.click("#start-opening-usual")
        self.expect_saved("Parlour opened written")
        page.click("#write-rule")
        page.click("#start-leak-valve")
        self.expect_saved("Water at Tub leak sensor written")
        # Safety stands first in the list.
        self.assertEqual(page.locator(".wm-ruleno[aria-current]").inner_text(), "1")
        page.click("#rule-2")
        page.wait_for_selector("#rule-2[aria-current]")
        page.locator("#rule-more summary").first.click()
        page.click("#rule-suspend > summary")
        page.fill("#suspend-why", "the door is being painted")
        page.click("#suspend")
        self.expect_saved("suspended")
        self.assertIn("Suspended until a person ends it", page.inner_text(".wm-rules"))
        page.click("#resume")
        self.expect_saved("works again")
        page.click("#see-all")
        expect(page.locator("#strip-all")).to_be_visible()
        page.click("#see-all")
        page.wait_for_selector("#rule-more")
        page.locator("#rule-more summary").first.click()
        page.click("#delete-rule")
        self.expect_saved("removed")
        expect(page.locator(".wm-rules > li")).to_have_count(1)

    def test_rules_go_out_as_json_and_come_in_again(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/rules")
        page.click("#start-frost-heat")
        self.expect_saved("written")
        with page.expect_download() as started:
            page.click("#save-rules")
        file = self.folder / "rules.json"
        started.value.save_as(file)
        self.assertEqual(json.loads(file.read_text())["format"], "warmeter-rules/2")
        page.click("#write-rule")
        page.set_input_files("input[name=file]", file)
        page.click("#read-rules")
        page.wait_for_url("**/rules?notice=*")
        expect(page.locator(".wm-rules > li")).to_have_count(2)
        newer = self.folder / "newer.json"
        newer.write_text(file.read_text().replace("warmeter-rules/2", "warmeter-rules/9"))
        page.click("#write-rule")
        page.set_input_files("input[name=file]", newer)
        page.click("#read-rules")
        expect(page.locator("#notice")).to_contain_text("warmeter-rules/9")
        expect(page.locator(".wm-rules > li")).to_have_count(2)

    def test_the_pages_of_rules_are_sound(self) -> None:
        home, page = self.bring_in(), self.page
        self.open(f"{home}/rules")
        page.click("#start-opening-usual")
        self.expect_saved("written")
        rule = re.search(r"rule=([\w-]+)", page.url)
        assert rule is not None
        base = f"{home}/rules?rule={rule[1]}"
        month = "from=2026-01-16&to=2026-02-14"
        self.assert_sound(
            [
                base,
                f"{base}&slot=watch.0.0.of",
                f"{base}&slot=then.0.targets",
                f"{base}&pane=tune&{month}",
                f"{base}&pane=all&{month}",
                f"{base}&pane=start",
                f"{home}/rules/sheet",
            ]
        )
