"""What was odd about the asset that a project is of: it may be another version by now than the one it began with.

In: a project. Out: what reading the asset could not keep, and findings. Called by the API, by copies and by packages.
"""

from typing import Any

from server.projects.models import Project


def report_of(project: Project) -> tuple[list[str], list[dict[str, Any]]]:
    """(problems, findings) of the asset of a project's document."""
    asset = project.scene.get("asset") or {}
    digest = (asset.get("file") or {}).get("sha256", "")
    other = project.reports.filter(sha256=digest).first()
    return (project.problems, project.report) if other is None else (other.problems, other.findings)
