"""Render hosts, forked from one template process that has their libraries and kernels loaded.

A host that dies is replaced in a fraction of a second, and a project opens without waiting for a program to start.
"""

import asyncio
import contextlib
import logging
import os
import signal
import socket
import subprocess
import sys
from pathlib import Path

from pydantic import ValidationError

from server.protocol import pipe
from server.protocol.host import FROM_HOST, Born, FromHost, ToHost

KEPT_MEMORY = {"MALLOC_MMAP_THRESHOLD_": str(32 << 20), "MALLOC_TRIM_THRESHOLD_": str(256 << 20)}
"""Has the C library keep what pictures of a megapixel are made in: by default each of their arrays is given back to the
kernel, and getting its pages anew takes longer than what is computed in them."""
log = logging.getLogger(__name__)
READ_AHEAD = 1 << 20
MODEST_NICENESS = 4
"""About three tenths of what those have who work here, while they take all they can get."""
MOST_TEMPLATES = 2
"""Templates tried for one host: the one at hand may have died unseen."""


class HostError(RuntimeError):
    """No render host could be started."""


class RenderHost:
    """The server's end of one host."""

    def __init__(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter, pid: int) -> None:
        self._reader, self._writer = reader, writer
        self.pid = pid
        # A number of its own: the host may end, and its process number be given to another, at any moment.
        self._descriptor = os.pidfd_open(pid)

    def send(self, message: ToHost) -> None:
        """Send a message; one to a host that has died is lost."""
        self.send_packed(pipe.pack(message))

    def send_packed(self, packed: bytes) -> None:
        """Send a message that was packed before: a large one, outside the event loop."""
        if not self._writer.is_closing():
            self._writer.write(packed)

    async def receive(self) -> tuple[FromHost, bytes] | None:
        """The next message and its body, None when the host has died or says what is not understood."""
        try:
            packed = await pipe.read_async(self._reader)
            return (FROM_HOST.validate_json(packed[0]), packed[1]) if packed else None
        except ConnectionError:
            return None
        except ValidationError:
            log.exception("render host %s says what is not understood", self.pid)
            return None

    def be_modest(self) -> None:
        """Have it run where others leave the processors idle; before it has anything to do, as threads inherit that."""
        with contextlib.suppress(OSError):  # it has died
            for thread in Path(f"/proc/{self.pid}/task").iterdir():
                os.setpriority(os.PRIO_PROCESS, int(thread.name), MODEST_NICENESS)

    def end(self) -> None:
        """Kill it, if it lives."""
        self._writer.close()
        if self._descriptor >= 0:
            try:
                signal.pidfd_send_signal(self._descriptor, signal.SIGKILL)
            except ProcessLookupError:
                pass
            finally:
                os.close(self._descriptor)
                self._descriptor = -1


class Hosts:
    """The render hosts of this server process."""

    def __init__(self) -> None:
        self._template: subprocess.Popen[bytes] | None = None
        self._control: socket.socket | None = None

    def prepare(self) -> None:
        """Start the template, if it does not run: the first project need not wait for it."""
        if self._template is not None and self._template.poll() is None:
            return
        self.close()
        self._control, theirs = socket.socketpair()
        with theirs:
            self._template = subprocess.Popen(
                [sys.executable, "-m", "server.host.template", str(theirs.fileno())],
                pass_fds=[theirs.fileno()],
                env=os.environ | KEPT_MEMORY,
            )

    async def take(self) -> RenderHost:
        """A new host. Raises HostError when the template cannot be run or makes none."""
        for _ in range(MOST_TEMPLATES):
            self.prepare()
            host = await self._fork()
            if host is not None:
                return host
            self.close()
        raise HostError("the render host's template process dies at its start; its reason stands above")

    async def _fork(self) -> RenderHost | None:
        assert self._control is not None
        ours, theirs = socket.socketpair()
        with theirs:
            try:
                socket.send_fds(self._control, [b"h"], [theirs.fileno()])
            except OSError:
                ours.close()
                return None
        reader, writer = await asyncio.open_unix_connection(sock=ours, limit=READ_AHEAD)
        born = None
        try:
            # While the template loads this waits; if it dies, the socket that was on its way to it is closed.
            packed = await pipe.read_async(reader)
            born = FROM_HOST.validate_json(packed[0]) if packed else None
            return RenderHost(reader, writer, born.pid) if isinstance(born, Born) else None
        except (ConnectionError, ProcessLookupError):
            return None
        finally:
            if born is None:
                writer.close()

    def close(self) -> None:
        """End the template; hosts end by themselves when their sockets are closed."""
        if self._control is not None:
            self._control.close()
        if self._template is not None:
            self._template.kill()
            self._template.wait()
        self._template = self._control = None


hosts = Hosts()
