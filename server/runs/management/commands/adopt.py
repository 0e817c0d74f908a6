"""Takes files of the store or the trash that no row names back into the database as logs."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from accounts.models import Role, User
from cars.models import Setup
from runs.originals import adopt


class Command(BaseCommand):
    """`./coombe adopt`."""

    help = "import stored files that no row names"

    def add_arguments(self, parser: CommandParser) -> None:
        """Which, and into what."""
        parser.add_argument("hashes", nargs="*", help="all that ./coombe store lists as unknown, where none is given")
        parser.add_argument("--setup", type=int, help="the number of the setup that they were driven on")

    def handle(self, *args: Any, **options: Any) -> None:
        """Under the name of the first administrator."""
        person = User.objects.filter(role=Role.ADMINISTRATOR).order_by("pk").first()
        if person is None:
            raise CommandError("Create an administrator first: ./coombe admin")
        setup = None
        if options["setup"]:
            setup = Setup.objects.filter(pk=options["setup"]).first()
            if setup is None:
                raise CommandError(f"There is no setup {options['setup']}.")
        done = adopt(options["hashes"], setup, person)
        for each in done:
            self.stdout.write(each.sentence)
        self.stdout.write(f"{sum(each.log is not None for each in done)} of {len(done)} taken back")
