"""The page that stands at the address while the application is being prepared."""

import socket
import urllib.error
import urllib.request

import pytest

from server.runtime.waiting import WaitingPage


def fetch(port, path="/"):
    with pytest.raises(urllib.error.HTTPError) as answer:
        urllib.request.urlopen(f"http://127.0.0.1:{port}{path}")
    return answer.value.code, answer.value.read().decode(), answer.value.headers


def test_the_address_answers_while_kernels_compile_and_is_free_afterwards():
    with WaitingPage(0) as page:
        page.say("Compiling <the> kernels", 1e9, "About two minutes.")
        for path in ("/", "/projects/3", "/api/session"):
            status, text, headers = fetch(page.port, path)
            assert status == 503 and headers["Retry-After"] == "1" and headers["Cache-Control"] == "no-store"
            assert "Compiling &lt;the&gt; kernels" in text and "About two minutes." in text and 'valuenow="0"' in text
        page.say("The next", 1e-9)
        assert 'valuenow="97"' in fetch(page.port)[1], "never the end before it is there"
        port = page.port
    with socket.socket() as other:
        other.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        other.bind(("127.0.0.1", port))
