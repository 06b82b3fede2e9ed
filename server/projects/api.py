"""Projects over HTTP. Edits go through the viewport's socket."""

from datetime import datetime

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema, Status

from lantern.scene.document import Scene
from server.errors import Missing
from server.projects.keeping import ArchiveProject, DeleteProject, DuplicateProject, RenameProject
from server.projects.models import Cover, Project
from server.projects.policy import project_for, visible_projects

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
        return f"/api/projects/{project.pk}/cover?made={cover.made.timestamp():.3f}" if cover else None


class ProjectDetail(ProjectSummary):
    scene: Scene
    """Of today's version, whichever it was saved by."""
    can_undo: bool
    can_redo: bool
    problems: list[str]

    @staticmethod
    def resolve_scene(project: Project) -> Scene:
        return project.document()


@router.get("projects", response=list[ProjectSummary])
def list_projects(request: HttpRequest) -> list[Project]:
    """The projects of the person signed in, newest first."""
    return list(visible_projects(request.user).select_related("cover").defer("scene", "cover__picture"))


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
