"""A relay that stands between a client and the application and lets only so many bytes a second through."""

import asyncio
import contextlib

PIECE = 2048
SMALL_BUFFER = 8192
"""Bytes that the relay reads ahead: a slow line has no room for what waits to be sent over it."""


class SlowLine:
    """A TCP relay on loopback; what the server sends takes its time, what the client sends does not."""

    def __init__(self, port: int, bytes_a_second: float) -> None:
        self._port, self._bytes_a_second = port, bytes_a_second
        self.passed = 0
        """Bytes that have reached the client."""

    async def __aenter__(self) -> "SlowLine":
        self._server = await asyncio.start_server(self._connect, "127.0.0.1", 0)
        self.url = f"http://127.0.0.1:{self._server.sockets[0].getsockname()[1]}"
        return self

    async def __aexit__(self, *_: object) -> None:
        self._server.close()

    async def _connect(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        from_server, to_server = await asyncio.open_connection("127.0.0.1", self._port, limit=SMALL_BUFFER)
        with contextlib.suppress(ConnectionError):
            async with asyncio.TaskGroup() as both:
                both.create_task(self._pass(reader, to_server))
                both.create_task(self._pass_slowly(from_server, writer))

    @staticmethod
    async def _pass(source: asyncio.StreamReader, target: asyncio.StreamWriter) -> None:
        while piece := await source.read(1 << 16):
            target.write(piece)
            await target.drain()
        target.close()

    async def _pass_slowly(self, source: asyncio.StreamReader, target: asyncio.StreamWriter) -> None:
        loop = asyncio.get_running_loop()
        free_at = loop.time()
        while piece := await source.read(PIECE):
            free_at = max(free_at, loop.time()) + len(piece) / self._bytes_a_second
            await asyncio.sleep(free_at - loop.time())
            target.write(piece)
            await target.drain()
            self.passed += len(piece)
        target.close()
