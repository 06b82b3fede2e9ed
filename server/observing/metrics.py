"""What the server counts, in the text format of Prometheus, for whoever has its token.

The token lies in the data folder, `secrets/metrics`: `Authorization: Bearer TOKEN` (RFC 6750).
"""

from collections.abc import Iterator
from hmac import compare_digest

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django_prometheus.exports import ExportToDjangoView
from prometheus_client import REGISTRY
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.registry import Collector

from server.intake.models import Upload
from server.live.sessions import sessions
from server.prints.models import Print
from server.problems import CONTENT_TYPE, problem


class _State(Collector):
    """What there is at the moment; asked for when somebody looks."""

    def collect(self) -> Iterator[GaugeMetricFamily]:
        yield GaugeMetricFamily("lantern_projects_open", "Projects open in a window", sessions.open_count)
        yield GaugeMetricFamily("lantern_windows_open", "Windows of projects", sessions.window_count)
        yield GaugeMetricFamily("lantern_hosts_running", "Render hosts that run", sessions.host_count)
        prints = GaugeMetricFamily("lantern_prints", "Prints that have not ended", labels=["state"])
        for state in (Print.State.QUEUED, Print.State.RUNNING):
            prints.add_metric([state], Print.objects.filter(state=state).count())
        yield prints
        running = Upload.objects.filter(state=Upload.State.RUNNING).count()
        yield GaugeMetricFamily("lantern_uploads_running", "Uploads that are being read", running)

    def describe(self) -> list[GaugeMetricFamily]:
        """Nothing is asked of the database while the program starts."""
        return []


REGISTRY.register(_State())


def metrics(request: HttpRequest) -> HttpResponse:
    """The counts, or 401."""
    if not compare_digest(request.headers.get("Authorization", ""), f"Bearer {settings.METRICS_TOKEN}"):
        return HttpResponse(problem(401, "The token of the metrics is needed."), status=401, content_type=CONTENT_TYPE)
    return ExportToDjangoView(request)
