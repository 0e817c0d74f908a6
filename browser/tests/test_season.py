"""The demo's season through the real interface. One season for all of it: making one takes longer than asking."""

from __future__ import annotations

from demo.loading import load
from stories import Stories
from studies_asked import Studies


class SeasonTest(Stories, Studies):
    def setUp(self):
        super().setUp()
        load()
        self.come_in(self.page, "tester")

    def test_its_stories_and_studies_end_rightly_and_can_be_asked_further(self):
        with self.subTest("stories"):
            self.the_stories_end_rightly_and_can_be_asked_further()
        with self.subTest("studies"):
            self.every_study_answers_and_a_new_one_is_made()
