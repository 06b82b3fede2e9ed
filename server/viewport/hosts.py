"""Render hosts, started ahead: one spare process waits with its libraries and kernels loaded.

A host that dies is replaced in a fraction of a second, and a project opens without waiting for a program to start.
"""

import asyncio
import contextlib
import logging
import os
import sys

log = logging.getLogger(__name__)
HOST_COMMAND = (sys.executable, "-m", "server.viewport.spare")
KEPT_MEMORY = {"MALLOC_MMAP_THRESHOLD_": str(32 << 20), "MALLOC_TRIM_THRESHOLD_": str(256 << 20)}
"""Has the C library keep what pictures of a megapixel are made in: by default each of their arrays is given back to the
kernel, and getting its pages anew takes longer than what is computed in them."""
SPARE_AFTER_SECONDS = 0.05
"""A new spare waits so long with its start, so that the host that was just taken makes its first picture before."""


class Hosts:
    """The render hosts of this server process."""

    def __init__(self) -> None:
        self._spare: asyncio.Task[asyncio.subprocess.Process] | None = None

    async def take(self) -> asyncio.subprocess.Process:
        """A running host, the spare if there is one; another spare is started in its place."""
        spare, self._spare = self._spare, None
        process = None
        if spare is not None and spare.get_loop() is asyncio.get_running_loop():
            with contextlib.suppress(OSError, asyncio.CancelledError):
                process = await spare
        if process is None or process.returncode is not None:
            process = await self._start()
        self._spare = asyncio.create_task(self._start(SPARE_AFTER_SECONDS))
        return process

    @staticmethod
    async def _start(after: float = 0.0) -> asyncio.subprocess.Process:
        await asyncio.sleep(after)
        return await asyncio.create_subprocess_exec(
            *HOST_COMMAND,
            stdin=asyncio.subprocess.PIPE,
            stdout=asyncio.subprocess.PIPE,
            env=os.environ | KEPT_MEMORY,
        )

    async def close(self) -> None:
        """End the spare."""
        spare, self._spare = self._spare, None
        if spare is None or spare.get_loop() is not asyncio.get_running_loop():
            return
        if not spare.done():
            spare.cancel()
        with contextlib.suppress(OSError, asyncio.CancelledError):
            process = await spare
            with contextlib.suppress(ProcessLookupError):
                process.kill()
            await process.wait()


hosts = Hosts()
