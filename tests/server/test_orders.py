"""Orders: the table before, the prints after; what is the same is not printed twice; stopped, resumed, fetched."""

import io
import zipfile

import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader

from lantern.scene.orders import Combination, digest_of, document_of
from server.errors import Refused
from server.prints import working
from server.prints.actions import CancelPrint, QueuePrint
from server.prints.models import Print
from server.prints.orders import Choice, CreateOrder, RemoveOrder, ResumeOrder, StopOrder, planned
from tests.core.test_orders import edited
from tests.server.test_prints import finished
from tests.server.test_showings import dressed

pytestmark = pytest.mark.django_db(transaction=True)
assert dressed
JSON = "application/json"


def everything(project, **more):
    """Both editions in the shot and as it is, in the evening, in two sizes."""
    scene = project.document()
    wanted = {"editions": list(scene.editions), "conditions": ["evening"], "sizes": [(24, 16), (48, 32)]}
    return Choice(**wanted | more)


def ordered(people, project, choice, **more):
    return CreateOrder(people["owner"], project.pk, "Catalogue", choice, **more).execute()


def print_all():
    for item in Print.objects.filter(state=Print.State.QUEUED).order_by("pk"):
        working.work_on(item.pk)


def test_the_table_has_each_with_each_and_names_its_files(people, dressed):
    rows = planned(people["owner"], dressed.pk, everything(dressed))
    assert [row.name for row in rows] == [
        "001-In-steel-Evening-24x16", "002-In-steel-Evening-48x32", "003-In-brass-Evening-24x16",
        "004-In-brass-Evening-48x32",
    ]  # fmt: skip
    assert {row.problem for row in rows} == {""} and rows[0].bytes < rows[1].bytes and rows[0].seconds is None
    named = planned(people["owner"], dressed.pk, everything(dressed, template="{edition}/{light}: {width} {place}"))
    assert named[3].name == "In-brass-Evening-48-004"
    with pytest.raises(Refused, match=r"no {shade} in a name; there are {place}"):
        planned(people["owner"], dressed.pk, everything(dressed, template="{shade}"))


def test_an_order_prints_what_its_documents_show_and_comes_as_one_zip(people, dressed, client):
    order = ordered(people, dressed, everything(dressed, sizes=[(24, 16)]), left_out=frozenset())
    print_all()
    scene = dressed.document()
    one, other = order.prints.all()
    assert one.scene["parts"] != other.scene["parts"]
    for item, key in zip(order.prints.order_by("pk"), scene.editions, strict=True):
        assert item.state == Print.State.DONE
        seen = document_of(scene, Combination(key, None, "evening"))
        assert item.scene["look"] == seen.plain()["look"] and item.scene["parts"] == seen.plain()["parts"]
    client.force_login(people["owner"])
    sent = client.get(f"/api/v1/orders/{order.pk}/file")
    whole = b"".join(sent.streaming_content) if not sent.is_async else b"".join(_collected(sent))
    told = client.get(f"/api/v1/orders/{order.pk}/prints").json()["items"]
    assert [(each["name"], each["state"], each["glimpses"] > 0) for each in told] == [
        (item.name, "done", True) for item in order.prints.order_by("pk")
    ]
    sheet = PdfReader(io.BytesIO(client.get(f"/api/v1/orders/{order.pk}/sheet").content)).pages[0]
    assert sheet.images
    assert all(each["name"] in sheet.extract_text() for each in told)
    with zipfile.ZipFile(io.BytesIO(whole)) as found:
        assert found.testzip() is None
        assert found.namelist() == [
            "001-In-steel-Evening-24x16.png", "001-In-steel-Evening-24x16.exr", "002-In-brass-Evening-24x16.png",
            "002-In-brass-Evening-24x16.exr",
        ]  # fmt: skip
        pictures = [np.asarray(Image.open(io.BytesIO(found.read(n)))) for n in found.namelist() if n.endswith("png")]
    assert pictures[0].shape == (16, 24, 3) and len(pictures) == 2
    entry = client.get(f"/api/v1/projects/{dressed.pk}/orders").json()["items"][0]
    assert (entry["name"], entry["done"], entry["open"], entry["failed"]) == ("Catalogue", 2, 0, 0)


def _collected(response):
    import asyncio

    async def all_of():
        return [piece async for piece in response.streaming_content]

    return asyncio.run(all_of())


def test_again_only_what_has_changed_is_printed(people, dressed):
    first = ordered(people, dressed, everything(dressed, sizes=[]))
    print_all()
    steel, brass = first.prints.order_by("pk")
    again = ordered(people, dressed, everything(dressed, sizes=[]))
    assert set(again.prints.all()) == {brass, steel} and Print.objects.count() == 2
    scene = edited(dressed.document(), ("replace", "/materials/steel/base_color", [0.1, 0.1, 0.4]))
    dressed.scene = scene.plain()
    dressed.save()
    rows = planned(people["owner"], dressed.pk, everything(dressed, sizes=[]))
    assert [row.same for row in rows] == [None, brass.pk], "who does not wear it is as before"
    third = ordered(people, dressed, everything(dressed, sizes=[]))
    assert Print.objects.filter(state=Print.State.QUEUED).count() == 1
    assert third.prints.count() == 2


def test_a_digest_is_of_what_is_seen(people, dressed):
    scene = dressed.document()
    same = [("replace", "/proof/samples", 7), ("add", "/shots/other", scene.plain()["shots"]["shot-1"])]
    for one in same if "shot-1" in scene.shots else same[:1]:
        assert digest_of(edited(scene, one)) == digest_of(scene)
    for one in (
        ("replace", "/print/samples", 13),
        ("replace", "/look/exposure", 1.5),
        ("replace", "/shutter/time", 1.0),
    ):
        assert digest_of(edited(scene, one)) != digest_of(scene)


def test_a_single_print_is_taken_into_an_order(people, dressed):
    working.work_on(QueuePrint(people["owner"], dressed.pk).execute().pk)
    (row,) = planned(people["owner"], dressed.pk, Choice())
    assert row.same == Print.objects.get().pk
    order = ordered(people, dressed, Choice())
    assert order.prints.get().pk == row.same


def test_one_is_stopped_and_the_order_goes_on_and_is_resumed(people, dressed):
    """Three by two by two of the issue, with what this project has: two editions, two sizes."""
    order = ordered(people, dressed, everything(dressed))
    first, *others = order.prints.order_by("pk")
    CancelPrint(people["owner"], first.pk).execute()
    working.work_on(others[0].pk)
    StopOrder(people["owner"], order.pk).execute()
    states = [item.state for item in order.prints.order_by("pk")]
    assert states == ["canceled", "done", "canceled", "canceled"]
    print_all()
    assert not finished(first, "png").exists()
    ResumeOrder(people["owner"], order.pk).execute()
    print_all()
    assert {item.state for item in order.prints.all()} == {"done"} and finished(first, "png").exists()


def test_what_two_orders_want_is_not_stopped_by_one(people, dressed):
    working.work_on(QueuePrint(people["owner"], dressed.pk).execute().pk)
    Print.objects.update(state=Print.State.DONE)
    one, two = ordered(people, dressed, Choice()), ordered(people, dressed, Choice())
    Print.objects.update(state=Print.State.QUEUED)
    StopOrder(people["owner"], one.pk).execute()
    assert two.prints.get().state == Print.State.QUEUED
    RemoveOrder(people["owner"], one.pk).execute()
    assert two.prints.get().state == Print.State.QUEUED
    RemoveOrder(people["owner"], two.pk).execute()
    assert Print.objects.get().state == Print.State.CANCELED, "nobody wants it now"


def test_what_cannot_be_is_said_row_by_row_and_refused_whole(people, dressed, settings, client):
    settings.FILM_LIMIT = 24 * 16 * 400
    rows = planned(people["owner"], dressed.pk, everything(dressed, sizes=[(24, 16), (4096, 4096)]))
    assert rows[0].problem == "" and "print it smaller" in rows[1].problem
    with pytest.raises(Refused, match="print it smaller"):
        ordered(people, dressed, everything(dressed, sizes=[(24, 16), (4096, 4096)]))
    assert not Print.objects.exists()
    small = ordered(people, dressed, everything(dressed, sizes=[(24, 16), (4096, 4096)]), left_out=frozenset({1, 3}))
    assert small.prints.count() == 2
    gone = planned(people["owner"], dressed.pk, everything(dressed, editions=["gone"], sizes=[]))
    assert "gone: choose again" in gone[0].problem
    with pytest.raises(Refused, match="one name"):
        ordered(people, dressed, everything(dressed, template="{light}"))
    with pytest.raises(Refused, match="Nothing of this order"):
        ordered(people, dressed, everything(dressed, sizes=[]), left_out=frozenset({0, 1}))
    with pytest.raises(Refused, match="and 400 are the most"):
        planned(people["owner"], dressed.pk, everything(dressed, sizes=[(16 + k, 16) for k in range(201)]))
    client.force_login(people["owner"])
    for wrong in ({"sizes": [[8, 8]]}, {"template": "x" * 300}, {"editions": 3}):
        assert client.post(f"/api/v1/projects/{dressed.pk}/orders", wrong, content_type=JSON).status_code == 422
    assert client.get(f"/api/v1/orders/{small.pk}/file").status_code == 422, "nothing is made yet"
