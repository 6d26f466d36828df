"""Quick hands lose nothing: bursts of keys, drags and typed cells, with a near server and a far one."""

from collections.abc import Callable

from playwright.sync_api import expect

from tests.browser.test_timetable import Weeks

FAR_MS = 400


class QuickHands(Weeks):
    def far(self) -> None:
        """Let every answer take its time from now on."""
        session = self.context.new_cdp_session(self.page)
        session.send("Network.enable")
        session.send(
            "Network.emulateNetworkConditions",
            {"offline": False, "latency": FAR_MS, "downloadThroughput": -1, "uploadThroughput": -1},
        )

    def assert_becomes(self, read: Callable[[], object], wanted: object) -> None:
        """Ask what is stored again and again until it is as wanted."""
        for _ in range(2000):
            if read() == wanted:
                return
        self.assertEqual(read(), wanted)

    def begin_of(self, home: str, block: int) -> int:
        return self.week(home)[0][block][0]

    def test_ten_presses_are_ten_steps_on_the_strip(self) -> None:
        home, page = self.make_home("Quick Strip"), self.page
        for is_far in (False, True):
            self.open_day(home)
            before = self.begin_of(home, 0)
            if is_far:
                self.far()
            page.locator(".wm-hnd-edge").first.focus()
            for _ in range(10):
                page.keyboard.press("ArrowRight")
            self.assert_becomes(lambda: self.begin_of(home, 0), before + 50)
            self.assertFalse(page.locator("#save-mine").count())
            expect(page.locator(".wm-hnd-edge").first).to_have_attribute("data-value", str(before + 50))

    def test_ten_drags_by_pointer_are_all_kept(self) -> None:
        home, page = self.make_home("Quick Drags"), self.page
        for is_far in (False, True):
            self.open_day(home)
            if is_far:
                self.far()
            for k in range(10):
                number = k % 2
                self.drag_edge(number, (400 + 10 * k) if number == 0 else 1300 + 5 * k)
            self.assert_becomes(lambda: [point[0] for point in self.week(home)[0]], [480, 1345])
            self.assertFalse(page.locator("#save-mine").count())

    def test_ten_presses_move_a_room_by_ten_steps(self) -> None:
        page = self.page
        self.open("/homes/new?empty=1")
        for field, value in (("name", "Quick Plan"), ("latitude", "52"), ("longitude", "0")):
            page.fill(f"#f-{field}", value)
        page.click("#make-home")
        page.click("#first-room")
        expect(page.locator("#saved b")).to_contain_text("Room drawn")
        home = page.url.removeprefix(self.served.address).split("/survey")[0]
        for is_far in (False, True):
            self.open(f"{home}/survey")
            room = page.locator("svg[data-plan] [data-room]").first
            before = self.left_of_room(home)
            if is_far:
                self.far()
            room.focus()
            for _ in range(10):
                page.keyboard.press("ArrowRight")
            self.assert_becomes(lambda: self.left_of_room(home), round(before + 1.0, 2))
            self.assertFalse(page.locator("#save-mine").count())

    def left_of_room(self, home: str) -> float:
        document = self.page.request.get(f"{self.served.address}{home}/home.json").json()
        return float(document["rooms"][0]["rects"][0]["x_m"])

    def test_cells_typed_one_after_the_other_are_all_kept(self) -> None:
        home, page = self.make_home("Quick Table"), self.page
        self.open_day(home)
        self.far()
        for cell, value in (("#t-set-0", "16.5"), ("#t-set-1", "20.5"), ("#t-set-0", "16.0"), ("#t-set-1", "21.5")):
            page.locator(cell).fill(value)
            page.keyboard.press("Tab")
        expect(page.locator("#saved b")).to_contain_text("21.5")
        self.open_day(home)
        self.assertEqual([page.input_value(f"#t-set-{k}") for k in (0, 1)], ["16.0", "21.5"])

    def test_two_presses_of_undo_take_two_changes_back(self) -> None:
        home, page = self.make_home("Quick Undo"), self.page
        for is_far in (False, True):
            self.open_day(home)
            if is_far:
                self.far()
            before = [point[0] for point in self.week(home)[0]]
            for k in (0, 1):
                page.locator(".wm-hnd-edge").nth(k).focus()
                page.keyboard.press("ArrowRight")
            page.keyboard.press("u")
            page.keyboard.press("u")
            self.assert_becomes(lambda: [point[0] for point in self.week(home)[0]], before)
            expect(page.locator(".wm-hnd-edge").first).to_have_attribute("data-value", str(before[0]))
            page.keyboard.press("r")
            page.keyboard.press("r")
            self.assert_becomes(lambda: [point[0] for point in self.week(home)[0]], [before[0] + 5, before[1] + 5])
            page.keyboard.press("u")
            page.keyboard.press("u")
            self.assert_becomes(lambda: [point[0] for point in self.week(home)[0]], before)

    def test_what_was_scrolled_stays_and_what_is_under_way_is_seen(self) -> None:
        home, page = self.make_home("Quick Scroll"), self.page
        self.open(f"{home}/devices")
        for k in range(14):
            page.click("#add-device")
            expect(page.locator("#register tbody tr")).to_have_count(k + 1)
        page.set_viewport_size({"width": 1280, "height": 420})
        self.open(f"{home}/devices")
        page.locator("#register tbody a").nth(12).click()
        page.wait_for_selector("#d-make_model")
        column = page.locator(".wm-plancols > .wm-pad")
        column.evaluate("(box) => { box.scrollTop = 120; }")
        page.locator("#d-make_model").scroll_into_view_if_needed()
        right = page.locator("#aside").evaluate("(box) => box.scrollTop")
        self.far()
        page.fill("#d-make_model", "head")
        page.keyboard.press("Tab")
        page.wait_for_selector("body.is-busy")
        page.wait_for_selector("#saved b:has-text('changed')")
        expect(page.locator("#main")).to_have_attribute("aria-busy", "false")
        self.assertEqual(column.evaluate("(box) => box.scrollTop"), 120)
        self.assertGreaterEqual(page.locator("#aside").evaluate("(box) => box.scrollTop"), right)
