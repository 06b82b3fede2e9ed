"""`manage.py load_demo`: the built-in library, the demo account and the demo projects, each made only once."""

from base64 import b64decode
from collections.abc import Callable
from datetime import timedelta
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from django.contrib.auth import get_user_model
from django.contrib.auth.base_user import AbstractBaseUser
from django.core.management.base import BaseCommand, CommandParser
from django.utils import timezone
from PIL import Image

from demo.editions import PROJECT_NAME as EDITIONS_NAME
from demo.editions import edition_demo
from demo.environments import ENVIRONMENTS
from demo.finishes import FINISHES, LANTERN, finished_demo
from demo.opening_film import PROJECT_NAME as FILM_NAME
from demo.opening_film import film_demo
from demo.profiles import PROFILES
from demo.project import ACCOUNT, PASSWORD, PROJECT_NAME, demo_files, opening_demo
from demo.takes import BOARD, SAMPLES, SHOT, WIDTH, picture_of
from demo.travel_set import PROJECT_NAME as SET_NAME
from demo.travel_set import travel_scene
from lantern.assets.inspecting import inspect
from lantern.assets.reading import import_asset
from lantern.engine.lit_balls import BALLS
from lantern.motion.bounds import asset_bounds
from lantern.scene.document import Scene
from lantern.scene.model import FileRef
from lantern.scene.orders import Combination, document_of
from server.intake.reading import environment_facts, image_facts, profile_facts
from server.library.actions import AddEnvironment, AddImage, AddProfile
from server.library.models import EnvironmentItem, ImageItem, ProfileItem
from server.library.picturing import ask_for_pictures
from server.projects import storage
from server.projects.actions import CreateProject
from server.projects.models import Project
from server.projects.reports import Report
from server.showings.actions import CreateShowing
from server.showings.models import Slide
from server.showings.preparing import Made, keep_picture

DEMO_SHOWN = timedelta(days=365)


class Command(BaseCommand):
    help = "Load the built-in library and, unless --library-only, the demo account and project."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--library-only", action="store_true")

    def handle(self, *arguments: Any, **options: Any) -> None:
        files = demo_files()
        for key, (name, _) in ENVIRONMENTS.items():
            if not EnvironmentItem.objects.filter(owner=None, name=name).exists():
                file = files[f"{key}.hdr"]
                facts = environment_facts(file, file.name)
                facts["thumbnail"] = b64decode(facts["thumbnail"])
                AddEnvironment(None, file, file.name, name, facts).execute()
        # Of a library that was made before it was told how bright its maps are.
        for item in EnvironmentItem.objects.filter(owner=None, luminance=None, file_name__in=files):
            item.luminance = environment_facts(files[item.file_name], item.file_name)["luminance"]
            item.save(update_fields=["luminance"])
        for key, (name, _) in PROFILES.items():
            if not ProfileItem.objects.filter(owner=None, name=name).exists():
                file = files[f"{key}.ies"]
                AddProfile(None, file, file.name, name, profile_facts(file, file.name)).execute()
        for key, (name, *_) in BALLS.items():
            if not ImageItem.objects.filter(owner=None, name=name).exists():
                file = files[f"{key}.png"]
                facts = image_facts(file, file.name)
                facts["thumbnail"] = b64decode(facts["thumbnail"])
                AddImage(None, file, file.name, name, facts, is_ball=True).execute()
        ask_for_pictures()
        if options["library_only"]:
            # Its password is in the documentation: without the demo nobody may sign in with it.
            for account in get_user_model().objects.filter(username=ACCOUNT, is_active=True):
                account.is_active = False
                account.set_unusable_password()
                account.save()
            return
        account, created = get_user_model().objects.get_or_create(username=ACCOUNT)
        if created or not account.is_active:
            account.is_active = True
            account.set_password(PASSWORD)
            account.save()
        finishes = [(f"{LANTERN}, {name}", partial(finished_demo, name)) for name in FINISHES]
        more = ((EDITIONS_NAME, edition_demo), (SET_NAME, travel_scene), (FILM_NAME, film_demo))
        own = ((PROJECT_NAME, opening_demo), *more, *finishes)
        for name, make in own:
            if not Project.objects.filter(owner=account, name=name).exists():
                project = _create(account, name, *make())
                if name == EDITIONS_NAME:
                    _show(account, project)
                # The lantern opens first.
                Project.objects.filter(owner=account, name=PROJECT_NAME).update(updated=timezone.now())


def _create(account: AbstractBaseUser, name: str, scene: Scene, resolve: Callable[[FileRef], Path]) -> Project:
    assert scene.asset is not None
    file = scene.asset.file
    storage.keep(resolve(file), file.name, account)
    asset = import_asset(resolve(file), name=file.name, sha256=file.sha256)
    low, high = asset_bounds(asset)
    findings = inspect(asset, scene, float((high - low).max()))
    report = Report(asset.problems, [finding.model_dump(mode="json") for finding in findings])
    return CreateProject(account, name, scene, report=report, bounds=[low.tolist(), high.tolist()]).execute()


def _show(account: AbstractBaseUser, project: Project) -> None:
    """A showing of the three editions with its board of takes, made of the pictures that came with the demo."""
    scene = project.document()
    asked = {"editions": list(scene.editions), "shots": [SHOT], "conditions": list(scene.conditions)}
    made = {"rights": ["live", "switch", "compare", "comment"], "longer_side": WIDTH, "samples": SAMPLES}
    showing = CreateShowing(account, project.pk, BOARD, timezone.now() + DEMO_SHOWN, **asked, **made).execute()
    for slide in showing.slides.all():
        wanted = Combination(slide.edition, slide.shot, slide.conditions)
        rgb = np.asarray(Image.open(picture_of(scene, wanted)).convert("RGB"))
        keep_picture(showing, slide, document_of(scene, wanted), 0, Made(rgb, SAMPLES, None))
        slide.state = Slide.State.DONE
        slide.save(update_fields=("state",))
