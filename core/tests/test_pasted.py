"""Pasted conditions: the right row for the right run, and the slips that people make."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from coombe_core.formats import conditions_table as pasted
from coombe_core.formats.conditions_table import KnownRun, Pasted
from coombe_core.wording.conditions_table import remark

FIRST = datetime(2026, 5, 9, 10, 0, 20, tzinfo=UTC)


RANGES = {**dict.fromkeys(pasted.CHARGES, (0, 100)), **dict.fromkeys(pasted.TEMPS, (-40, 90))}


def read_pasted(text: str, of: list[KnownRun], **more) -> Pasted:
    return pasted.read_pasted(text, of, RANGES, **more)


def runs(count: int = 3, **known: list[float | None]) -> list[KnownRun]:
    return [
        KnownRun(FIRST + timedelta(minutes=6 * index), {name: values[index] for name, values in known.items()})
        for index in range(count)
    ]


class RowsTest(TestCase):
    def test_rows_go_to_the_runs_in_their_order(self):
        found = read_pasted("95\t94\t44\t45\n94\t93\t45\t46\n93\t92\t46\t46\n", runs())
        self.assertEqual([(row.line, row.run) for row in found.rows], [(1, 0), (2, 1), (3, 2)])
        self.assertEqual(found.rows[1].values["battery_temp_after_c"], 46)
        self.assertEqual((found.doubts, [row.doubts for row in found.rows]), ([], [[], [], []]))

    def test_headings_name_the_columns_and_times_find_the_runs(self):
        text = "Time;Battery before (°C);Charge before, %\n10:12:30;44,5;93\n10:00;43;95"
        found = read_pasted(text, runs())
        self.assertEqual([row.run for row in found.rows], [2, 0])
        self.assertEqual(found.rows[0].values, {"charge_before_percent": 93, "battery_temp_before_c": 44.5})

    def test_a_heading_in_fahrenheit_is_converted(self):
        found = read_pasted("charge before, battery before (°F)\n95, 111.2", runs(1))
        self.assertEqual(found.rows[0].values["battery_temp_before_c"], 44.0)
        self.assertEqual(found.rows[0].doubts, [])

    def test_a_time_without_a_run_is_an_error_of_its_row(self):
        found = read_pasted("time,charge\n11:40,90", runs())
        self.assertEqual(
            (found.rows[0].run, [*map(remark, found.rows[0].wrong)]), (None, ["no run within 2 min of 11:40"])
        )

    @given(st.text(max_size=200))
    def test_no_text_breaks_it(self, text):
        for row in read_pasted(text, runs()).rows:
            self.assertTrue(row.run is not None or row.wrong)


class SlipsTest(TestCase):
    def test_a_column_that_has_no_known_name_is_said_to_be_left_out(self):
        found = read_pasted("charge,brand\n95,new", runs(1))
        self.assertEqual([*map(remark, found.doubts)], ["The column 'brand' is left out: no condition has that name."])

    def test_merged_cells_leave_gaps_that_are_asked_about_and_not_filled(self):
        found = read_pasted("95\t94\t44\n93\t92\t\n91\t90\t", runs())
        self.assertEqual([row.values.get("battery_temp_before_c") for row in found.rows], [44, None, None])
        said = ["Battery before is empty in 2 rows: were cells merged in the spreadsheet?"]
        self.assertEqual([*map(remark, found.doubts)], said)

    def test_columns_in_another_order_with_decimal_commas_are_taken_by_their_headings(self):
        found = read_pasted("Battery before;Charge after;Charge before\n44,5;93;94,5", runs(1))
        wanted = {"battery_temp_before_c": 44.5, "charge_after_percent": 93, "charge_before_percent": 94.5}
        self.assertEqual(found.rows[0].values, wanted)

    def test_a_share_taken_for_percent_is_doubted(self):
        self.assertIn("95 %?", remark(read_pasted("0.95,0.94", runs(1)).rows[0].doubts[0]))

    def test_a_row_too_many_or_too_few_is_told(self):
        self.assertIn("2 rows for 3 runs", remark(read_pasted("95\n94", runs()).doubts[0]))
        found = read_pasted("95\n94\n93\n92", runs())
        self.assertEqual([*map(remark, found.rows[3].wrong)], ["there is no run left for this row"])

    def test_a_shifted_row_shows_against_what_is_known(self):
        known = runs(4, charge_before_percent=[95, None, 89, 86])
        self.assertEqual(read_pasted("95\n92\n89\n86", known).doubts, [])
        self.assertIn("moved up by one", remark(read_pasted("98\n95\n92\n89", known).doubts[0]))
        self.assertIn("moved down by one", remark(read_pasted("92\n89\n86\n83", known).doubts[0]))

    def test_charge_that_rises_between_runs_is_doubted(self):
        found = read_pasted("95,94\n96,95\n95,94", runs())
        self.assertIn("rises from 94 to 96", remark(found.rows[1].doubts[0]))
        self.assertEqual(found.rows[2].doubts, [])

    def test_what_is_no_number_names_column_and_cell(self):
        found = read_pasted("95,full,44,45", runs(1))
        self.assertEqual([*map(remark, found.rows[0].wrong)], ["charge after is not a number: 'full'"])
