"""A week written in the real interface: by mouse, by keyboard alone, by table; undone and done again; told why."""

from playwright.sync_api import FloatRect, Locator, Page, expect

from tests.browser.test_whole_job import Browsing

MONDAY, SATURDAY = "2026-01-12", "2026-01-17"
WEATHER = "&low=-2&high=6"
WORKDAY = [(390, "In use"), (510, "Out"), (1020, "In use"), (1350, "Asleep")]
DAY_OFF = [(480, "In use"), (1410, "Asleep")]
WEEK = [WORKDAY] * 5 + [DAY_OFF] * 2
FIRST = [[(420, "In use"), (1350, "Asleep")]] * 7


class Weeks(Browsing):
    """A home with one room, its week read back as it is stored."""

    def open_day(self, home: str, day: str = MONDAY, more: str = "") -> None:
        """Open a day of the timetable with typed weather."""
        self.open(f"{home}/timetable?day={day}{WEATHER}{more}")

    def week(self, home: str) -> list[list[tuple[int, str]]]:
        """Return (minute, level) of every weekday, Monday first, from the exported file."""
        file = self.page.request.get(f"{self.served.address}{home}/timetable.json").json()
        names = {level["id"]: level["name"] for level in file["levels"]}
        timetable = file["zones"][0]["timetables"][0]
        written = {plan["of"]: plan["points"] for plan in timetable["days"]}
        kinds = {d: kind["id"] for kind in file["day_kinds"] for d in kind["weekdays"]}
        days = []
        for number, key in enumerate(("mon", "tue", "wed", "thu", "fri", "sat", "sun")):
            points = written.get(key) or written.get(kinds.get(number, "")) or timetable["usual"]
            days.append([(point["start_min"], names[point["level_id"]]) for point in points])
        return days

    def expect_saved(self, words: str, page: Page | None = None) -> None:
        """Wait until the status line tells a change."""
        expect((page or self.page).locator("#saved b")).to_contain_text(words)

    def place(self, minute: int, share: float = 0.5) -> tuple[float, float]:
        """Return the page's px of a minute in the first zone's lane."""
        strip = self.page.locator("#strip-day")
        box = self.box_of(strip)
        left, plot, length = (float(strip.get_attribute(f"data-{n}") or 0) for n in ("left", "plot", "length"))
        return box["x"] + left + minute / length * plot, box["y"] + 24 + 72 * share

    def box_of(self, part: Locator) -> FloatRect:
        """Return where a part lies; one that is drawn anew while it is measured is measured again."""
        for _ in range(50):
            box = part.bounding_box()
            if box is not None:
                return box
        raise AssertionError("the part is not shown")

    def drag_edge(self, number: int, to_min: int) -> None:
        """Drag a block's edge to a minute."""
        box = self.box_of(self.page.locator(".wm-hnd-edge").nth(number))
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(self.place(to_min)[0], y, steps=6)
        self.page.mouse.up()

    def undo_and_redo_all(self, home: str) -> None:
        """Take everything back, then do it again, and look at both."""
        page, wanted = self.page, self.week(home)
        steps = 0
        while page.locator("#undo").is_visible() and self.week(home) != FIRST:
            before = page.inner_text("#saved")
            page.keyboard.press("u")
            expect(page.locator("#saved")).not_to_have_text(before)
            page.wait_for_load_state()
            steps += 1
        self.assertEqual(self.week(home), FIRST)
        for _ in range(steps):
            before = page.inner_text("#saved")
            page.keyboard.press("r")
            expect(page.locator("#saved")).not_to_have_text(before)
            page.wait_for_load_state()
        self.assertEqual(self.week(home), wanted)
        self.assertEqual(page.locator("#redo:visible").count(), 0)


class ByMouse(Weeks):
    def test_a_week_by_mouse(self) -> None:
        home, page = self.make_home("By Mouse"), self.page
        self.open_day(home)
        self.drag_edge(0, 390)
        self.expect_saved("period starts 06:30")
        for minute, level in ((510, "Out"), (1020, "In use")):
            page.mouse.dblclick(*self.place(minute, 0.8))
            self.expect_saved("period split at")
            rows = page.locator("[id^=t-start-]")
            row = next(
                k for k in range(rows.count()) if rows.nth(k).input_value() == f"{minute // 60:02d}:{minute % 60:02d}"
            )
            select = page.locator("[id^=t-level-]").nth(row + 1)
            select.select_option(
                label=next(o for o in select.locator("option").all_inner_texts() if o.startswith(level))
            )
            self.expect_saved(f"period is {level}")
        self.open_day(home, SATURDAY)
        page.select_option("#scope", "weekday")
        page.wait_for_url("**scope=weekday*")
        for left in (3, 2):
            page.click("#t-merge-2")
            expect(page.locator("[id^=t-merge-]")).to_have_count(left)
        self.drag_edge(0, 480)
        self.expect_saved("period starts 08:00")
        self.drag_edge(1, 1410)
        self.expect_saved("period starts 23:30")
        page.click("#copying summary")
        page.check("#copy-sun")
        page.click("#copy-day")
        self.expect_saved("day copied to Sundays")
        self.assertEqual(self.week(home), WEEK)
        self.undo_and_redo_all(home)

    def test_a_click_tells_why_and_a_stretch_of_the_year_is_compared(self) -> None:
        home, page = self.make_home("Why"), self.page
        self.open_day(home)
        page.mouse.click(*self.place(600, 0.8))
        expect(page.locator("#why-decides")).to_contain_text("In use")
        expect(page.locator("#why-next")).to_contain_text("From 22:30")
        page.keyboard.press("Escape")
        expect(page.locator("#why-form")).to_be_visible()
        ribbon = page.locator("#ribbon").bounding_box()
        assert ribbon is not None
        page.mouse.click(ribbon["x"] + 2 * 200 + 1, ribbon["y"] + 20)
        page.wait_for_url("**day=2026-01-17*")
        page.mouse.move(ribbon["x"] + 2 * 190 + 1, ribbon["y"] + 20)
        page.mouse.down()
        page.mouse.move(ribbon["x"] + 2 * 196 + 1, ribbon["y"] + 20, steps=4)
        page.mouse.up()
        page.wait_for_url("**from=2026-01-07*")
        page.click("#compare-go")
        page.wait_for_selector("#compared", timeout=60_000)
        self.assertEqual(page.locator("#compared tbody tr").count(), 2)


class ByKeyboard(Weeks):
    def press(self, key: str, times: int = 1) -> None:
        for _ in range(times):
            self.page.keyboard.press(key)

    def tab_to(self, selector: str, most: int = 120) -> None:
        """Press Tab until an element has the focus."""
        for _ in range(most):
            if self.page.evaluate("s => document.activeElement && document.activeElement.matches(s)", selector):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"{selector} cannot be reached by Tab")

    def test_a_week_by_keyboard_alone(self) -> None:
        home, page = self.make_home("By Keyboard"), self.page
        self.open_day(home)
        page.focus("#main")
        self.tab_to(".wm-hnd-edge")
        for step in range(1, 7):
            self.press("ArrowLeft")
            minute = 420 - 5 * step
            self.expect_saved(f"period starts {minute // 60:02d}:{minute % 60:02d}")
        for start, end, level in (("08:30", "17:00", "Out"),):
            self.tab_to("#new-level")
            self.press(level[0])
            self.tab_to("#new-start")
            page.keyboard.type(start)
            self.press("Tab")
            page.keyboard.type(end)
            self.tab_to("#new-show")
            self.press("Enter")
            expect(page.locator("#laid")).to_contain_text("lasts 8 h 30 min")
            self.tab_to("#new-lay")
            self.press("Enter")
            self.expect_saved(f"{level} {start} to {end}")
        page.focus("#main")
        for day in ("13", "14", "15", "16", "17"):
            page.focus("#main")
            self.press("]")
            page.wait_for_url(f"**day=2026-01-{day}*")
        self.open_day(home, SATURDAY)
        self.tab_to("#scope")
        self.press("S")
        page.wait_for_url("**scope=weekday*")
        self.tab_to("#new-start")
        page.keyboard.type("08:00")
        self.press("Tab")
        page.keyboard.type("23:30")
        self.press("Enter")
        self.expect_saved("In use 08:00 to 23:30")
        page.focus("#main")
        self.tab_to(".wm-hnd-edge")
        self.press("Delete")
        self.expect_saved("merged with the one before")
        self.tab_to("#copying summary")
        self.press("Enter")
        self.tab_to("#copy-sun")
        self.press("Space")
        self.tab_to("#copy-day")
        self.press("Enter")
        self.expect_saved("day copied to Sundays")
        self.assertEqual(self.week(home), WEEK)
        page.focus("#main")
        self.undo_and_redo_all(home)

    def test_the_ribbon_and_why_by_keyboard(self) -> None:
        home, page = self.make_home("Keys"), self.page
        self.open_day(home)
        page.focus("#ribbon")
        self.press("ArrowRight", 3)
        self.press("Enter")
        page.wait_for_url("**day=2026-01-15*")
        self.tab_to("#why-time", 150)
        page.keyboard.type("23:00")
        self.press("Enter")
        expect(page.locator("#why-decides")).to_contain_text("Asleep")


class ByTable(Weeks):
    def lay(self, level: str, start: str, end: str) -> None:
        """Lay a block by its form."""
        page = self.page
        options = page.locator("#new-level option").all_inner_texts()
        page.select_option("#new-level", label=next(o for o in options if o.startswith(level)))
        page.fill("#new-start", start)
        page.fill("#new-end", end)
        page.click("#new-lay")
        self.expect_saved(f"{level} {start} to {end}")

    def test_a_week_by_table(self) -> None:
        home, page = self.make_home("By Table"), self.page
        self.open_day(home)
        page.fill("#t-start-1", "06:30")
        page.keyboard.press("Enter")
        self.expect_saved("period starts 06:30")
        self.lay("Out", "08:30", "17:00")
        page.goto(self.served.address + f"{home}/timetable?pane=dates&day={MONDAY}{WEATHER}")
        self.assertEqual([page.input_value(f"#weekday-{d}") != "" for d in range(7)], [True] * 7)
        self.open_day(home, SATURDAY)
        page.select_option("#scope", "weekday")
        page.wait_for_url("**scope=weekday*")
        self.lay("In use", "08:00", "23:30")
        page.click("#t-merge-1")
        self.expect_saved("merged with the one before")
        page.click("#copying summary")
        page.check("#copy-sun")
        page.click("#copy-day")
        self.expect_saved("day copied to Sundays")
        self.assertEqual(self.week(home), WEEK)
        self.undo_and_redo_all(home)

    def test_by_hand_habits_gaps_and_files(self) -> None:
        home, page = self.make_home("By Hand"), self.page
        self.open(f"{home}/timetable?pane=hand&day={MONDAY}{WEATHER}")
        page.fill("#hand-set", "22")
        page.fill("#hand-at", "16:00")
        page.select_option("#hand-end", "for")
        page.fill("#hand-length", "2")
        page.click("#hand-lay")
        expect(page.locator("#by-hand")).to_contain_text("22.0")
        self.open_day(home)
        self.assertEqual(page.locator("#strip-day .wm-hold").count(), 1)
        self.open(f"{home}/timetable?pane=gaps&day={MONDAY}{WEATHER}")
        page.locator("[id^=fig-gap]").first.click()
        expect(page.locator("#working-h")).to_be_visible()
        self.open(f"{home}/timetable?pane=carry&day={MONDAY}{WEATHER}")
        with page.expect_download() as download:
            page.click("#out-csv")
        text = (download.value.path()).read_text(encoding="utf-8")
        changed = self.folder / "timetable.csv"
        changed.write_text(text.replace("07:00", "06:15"), encoding="utf-8")
        page.set_input_files("#in-file", changed)
        page.click("#in-look")
        expect(page.locator("#changes")).to_contain_text("06:15")
        page.click("#take-file")
        page.wait_for_url("**notice=*")
        self.assertEqual(self.week(home)[0][0], (375, "In use"))

    def test_two_windows_never_overwrite_each_other_silently(self) -> None:
        home, page = self.make_home("Two Windows"), self.page
        levels = f"{home}/timetable?pane=levels&day={MONDAY}{WEATHER}"
        self.open(levels)
        other = self.new_page()
        other.goto(page.url)
        other.locator("[id^=lv-heat-]").first.fill("19")
        other.keyboard.press("Enter")
        self.expect_saved("heating 19.0", other)
        page.locator("[id^=lv-heat-]").first.fill("21")
        page.keyboard.press("Enter")
        page.wait_for_selector("#save-mine")
        other.reload()
        self.assertEqual(other.locator("[id^=lv-heat-]").first.input_value(), "19.0")
        page.click("#take-theirs")
        expect(page.locator("[id^=lv-heat-]").first).to_have_value("19.0")

    def test_every_pane_is_sound_by_day_and_night_wide_and_narrow(self) -> None:
        home = self.make_home("Panes")
        panes = ("day", "week", "levels", "dates", "hand", "gaps", "compare", "carry")
        paths = [f"{home}/timetable?pane={pane}&day={MONDAY}{WEATHER}" for pane in panes]
        paths += [
            f"{home}/timetable?pane=compare&day={MONDAY}&from=2026-01-05&to=2026-01-20",
            f"{home}/revisions?old=1",
        ]
        self.assert_sound(paths)
