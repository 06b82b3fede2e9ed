"""What the address answers while the application is being prepared: a page that says what is done and how far it is.

In: stages. Out: a page that asks again every second until the application is there. Called by the launcher, until the
web server takes the port over.
"""

import html
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Velvet Lantern</title>
<style>
body {{ margin: 0; height: 100vh; display: grid; place-items: center; background: #171717; color: #f2ece3;
  font: 15px system-ui, sans-serif }}
main {{ width: 340px }}
h1 {{ font: 26px Georgia, serif; margin: 0 0 20px }}
p {{ margin: 6px 0; color: #b5aea5; font-size: 13px }}
.bar {{ height: 4px; margin: 10px 0; border-radius: 2px; background: #343434 }}
.bar i {{ display: block; height: 100%; border-radius: 2px; background: #e9a63f }}
</style></head><body><main role="status">
<h1>Velvet Lantern</h1><div>{stage}</div>
<div class="bar" role="progressbar" aria-valuenow="{share:.0f}" aria-label="{stage}">
<i style="width: {share:.0f}%"></i></div>
<p>{hint}</p></main>
<script>
// Asked for in the background: for a moment nobody answers, when the web server takes the port over.
setInterval(async () => {{
  try {{
    const answer = await fetch(location.href, {{ cache: "no-store" }});
    if (answer.status !== 503) return location.reload();
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    document.querySelector("main").replaceWith(page.querySelector("main"));
  }} catch {{}}
}}, 1000);
</script></body></html>
"""


class WaitingPage:
    """A small web server on the application's own port."""

    def __init__(self, port: int) -> None:
        self._stage, self._hint, self._begun, self._seconds = "Starting", "", time.monotonic(), 10.0
        page = self

        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                page.answer(self)

            do_POST = do_HEAD = do_GET  # noqa: N815

            def log_message(self, *arguments: Any) -> None:
                """Say nothing."""

        self._server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
        self.port = self._server.server_address[1]
        self._thread = threading.Thread(target=self._server.serve_forever, args=(0.05,), daemon=True)

    def __enter__(self) -> "WaitingPage":
        self._thread.start()
        return self

    def __exit__(self, *exception: object) -> None:
        self._server.shutdown()
        self._server.server_close()

    def say(self, stage: str, seconds: float, hint: str = "") -> None:
        """What begins now, and about how long it takes."""
        self._stage, self._hint, self._begun, self._seconds = stage, hint, time.monotonic(), seconds

    def answer(self, request: BaseHTTPRequestHandler) -> None:
        """Say how far it is; 503, so that nobody takes the page for the application."""
        # The end is never promised: what takes longer than usual stands still just before it.
        share = min((time.monotonic() - self._begun) / self._seconds, 0.97) * 100
        body = PAGE.format(stage=html.escape(self._stage), hint=html.escape(self._hint), share=share).encode()
        request.send_response(503)
        request.send_header("Content-Type", "text/html; charset=utf-8")
        request.send_header("Content-Length", str(len(body)))
        request.send_header("Retry-After", "1")
        request.send_header("Cache-Control", "no-store")
        request.end_headers()
        if request.command != "HEAD":
            request.wfile.write(body)
