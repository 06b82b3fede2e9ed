"""What was odd about the asset that a project is of: it may be another version by now than the one it began with.

In: a project. Out: what reading the asset could not keep, and findings. Called where projects are made, shown, copied
and packed, and by the intake of a newer version.
"""

from collections.abc import Sequence
from typing import Any, NamedTuple

from server.projects.models import AssetReport, Project


class Report(NamedTuple):
    """Sentences about what could not be kept; findings as JSON data."""

    problems: Sequence[str] = ()
    findings: Sequence[dict[str, Any]] = ()


NOTHING_ODD = Report()


def asset_digest(scene: dict[str, Any]) -> str:
    """SHA-256 of the file of a document's asset; empty when it has none."""
    asset = scene.get("asset") or {}
    return str((asset.get("file") or {}).get("sha256", ""))


def keep_report(project: Project, digest: str, report: Report) -> None:
    """Keep what is odd about a file that is or may become the asset of a project."""
    fields = {"problems": list(report.problems), "findings": list(report.findings)}
    AssetReport.objects.update_or_create(project=project, sha256=digest, defaults=fields)


def report_of(project: Project) -> Report:
    """Of the asset that a project's document is of now."""
    found = project.reports.filter(sha256=asset_digest(project.scene)).first()
    return NOTHING_ODD if found is None else Report(found.problems, found.findings)
