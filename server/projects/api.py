"""Projects over HTTP. Edits go through the viewport's socket."""

from datetime import datetime
from typing import Any

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from ninja import Router, Schema, Status
from ninja.pagination import paginate

from lantern.scene.document import Scene
from lantern.scene.findings import Finding
from lantern.scene.making import Made
from lantern.scene.model import Key, Name
from server.errors import Missing
from server.projects.keeping import ArchiveProject, DeleteProject, DuplicateProject, RenameProject
from server.projects.models import Cover, Project, Start
from server.projects.policy import project_for, visible_projects
from server.projects.reports import report_of
from server.projects.starts import ChooseStart, DeleteStart, KeepStart, starts_of
from server.projects.variants import variant_to_keep

router = Router(tags=["projects"])


class ProjectSummary(Schema):
    id: int
    name: str
    revision: int
    archived: bool
    updated: datetime
    cover: str | None
    """Address of its picture, another one for each new picture."""

    @staticmethod
    def resolve_cover(project: Project) -> str | None:
        cover = getattr(project, "cover", None)
        if cover is None:
            return None
        return f"{reverse('api:project_cover', args=[project.pk])}?made={cover.made.timestamp():.3f}"


class ProjectDetail(ProjectSummary):
    scene: Scene
    """Of today's version, whichever it was saved by."""
    can_undo: bool
    can_redo: bool
    problems: list[str]
    report: list[Finding]

    @staticmethod
    def resolve_scene(project: Project) -> Scene:
        return project.document()

    @staticmethod
    def resolve_problems(project: Project) -> list[str]:
        return list(report_of(project).problems)

    @staticmethod
    def resolve_report(project: Project) -> list[dict[str, Any]]:
        return list(report_of(project).findings)


@router.get("projects", response=list[ProjectSummary])
@paginate
def list_projects(request: HttpRequest) -> QuerySet[Project]:
    """The projects of the person signed in, newest first."""
    return visible_projects(request.user).select_related("cover").defer("scene", "cover__picture")


@router.get("projects/{project_id}", response=ProjectDetail)
def get_project(request: HttpRequest, project_id: int) -> Project:
    """One project with its document."""
    return project_for(request.user, project_id)


@router.get("projects/{project_id}/cover")
def project_cover(request: HttpRequest, project_id: int) -> HttpResponse:
    """The picture by which a project is known, JPEG."""
    cover = Cover.objects.filter(project=project_for(request.user, project_id)).first()
    if cover is None:
        raise Missing(f"Project {project_id} has no picture yet.")
    headers = {"Cache-Control": "private, max-age=86400"}
    return HttpResponse(bytes(cover.picture), content_type="image/jpeg", headers=headers)


class ProjectChange(Schema):
    """What is to be different; what is not said stays."""

    name: str | None = None
    archived: bool | None = None


@router.patch("projects/{project_id}", response=ProjectSummary)
def change_project(request: HttpRequest, project_id: int, change: ProjectChange) -> Project:
    """Rename a project, put it away, or take it back."""
    project = project_for(request.user, project_id)
    if change.name is not None:
        project = RenameProject(request.user, project_id, change.name).execute()
    if change.archived is not None:
        project = ArchiveProject(request.user, project_id, change.archived).execute()
    return project


@router.post("projects/{project_id}/copy", response=ProjectSummary)
def copy_project(request: HttpRequest, project_id: int) -> Project:
    """A copy of a project as it is now."""
    return DuplicateProject(request.user, project_id).execute()


@router.delete("projects/{project_id}", response={204: None})
def delete_project(request: HttpRequest, project_id: int) -> Status[None]:
    """Remove a project."""
    DeleteProject(request.user, project_id).execute()
    return Status(204, None)


class StartEntry(Schema):
    """A set-up with which new projects may begin."""

    id: int
    name: str
    is_default: bool


class NewStart(Schema):
    name: str


class StartChange(Schema):
    is_default: bool


@router.get("starts", response=list[StartEntry])
@paginate
def list_starts(request: HttpRequest) -> QuerySet[Start]:
    """The set-ups of the person signed in, by name."""
    return starts_of(request.user).defer("scene")


@router.post("projects/{project_id}/start", response=StartEntry)
def keep_start(request: HttpRequest, project_id: int, start: NewStart) -> Start:
    """Keep the set-up of a project for new ones; one of the same name is replaced."""
    return KeepStart(request.user, project_id, start.name).execute()


@router.patch("starts/{start_id}", response=StartEntry)
def change_start(request: HttpRequest, start_id: int, change: StartChange) -> Start:
    """Make a set-up the default, or no longer."""
    return ChooseStart(request.user, start_id, change.is_default).execute()


@router.delete("starts/{start_id}", response={204: None})
def delete_start(request: HttpRequest, start_id: int) -> Status[None]:
    """Remove a set-up."""
    DeleteStart(request.user, start_id).execute()
    return Status(204, None)


class VariantToKeep(Schema):
    group: Key
    name: Name | None = None


class MadeEntry(Schema):
    """The patch that a window applies as an edit of its own."""

    key: str
    label: str
    patch: list[dict[str, Any]]


@router.post("projects/{project_id}/variants", response=MadeEntry)
def keep_variant(request: HttpRequest, project_id: int, wanted: VariantToKeep) -> Made:
    """What has changed since the last variant, as the patch to another of a group."""
    return variant_to_keep(request.user, project_id, wanted.group, wanted.name)
