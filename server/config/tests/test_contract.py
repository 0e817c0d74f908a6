"""The OpenAPI schema and the typed client made from it are those of the code."""

import subprocess
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.test import TestCase

WEB = settings.ROOT / "web"


class ContractTest(TestCase):
    def test_the_schema_is_that_of_the_code(self):
        made = Path(settings.VAR) / "openapi.json"
        call_command("spectacular", "--file", str(made), "--format", "openapi-json")
        kept = (settings.ROOT / "server" / "openapi.json").read_text()
        self.assertEqual(made.read_text(), kept, "run: server/manage.py spectacular --file server/openapi.json")

    def test_the_typed_client_is_that_of_the_schema(self):
        made = Path(settings.VAR) / "schema.ts"
        command = ["node_modules/.bin/openapi-typescript", "../server/openapi.json", "-o", str(made)]
        subprocess.run(command, cwd=WEB, check=True, capture_output=True)
        kept = (WEB / "src" / "api" / "generated" / "schema.ts").read_text()
        self.assertEqual(made.read_text(), kept, "run: npm run types in web/")

    def test_no_model_lacks_its_migration(self):
        call_command("makemigrations", "--check", "--dry-run", verbosity=0)
