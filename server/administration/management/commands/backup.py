"""`lantern-admin backup FILE`."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.administration.backup import BackupError, back_up


class Command(BaseCommand):
    help = "Write the database and all files into one file, while the server runs."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *arguments: Any, **options: Any) -> None:
        path: Path = options["file"]
        try:
            index = back_up(path, self.stdout.write)
        except BackupError as error:
            raise CommandError(str(error)) from error
        size = path.stat().st_size
        self.stdout.write(
            f"{path}: {index['projects']} projects, {index['prints']} prints, {index['files']} files, "
            f"{size / 1e6:.1f} MB"
        )
