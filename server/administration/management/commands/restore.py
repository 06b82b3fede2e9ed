"""`lantern-admin restore FILE`."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.administration.backup import BackupError
from server.administration.restore import restore


class Command(BaseCommand):
    help = "Bring database and files back to what a backup holds; what came since is gone."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--yes", action="store_true", help="do not ask")

    def handle(self, *arguments: Any, **options: Any) -> None:
        if not options["yes"] and input("Everything since this backup will be gone. Type yes to go on: ") != "yes":
            raise CommandError("Nothing was changed.")
        try:
            index = restore(options["file"], self.stdout.write)
        except BackupError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"Restored what was backed up at {index['made']}: {index['projects']} projects.")
