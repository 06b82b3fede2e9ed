"""A client behind a line of 1 Mbit/s: fewer and smaller pictures, not older ones."""

import asyncio
import statistics
from concurrent.futures import ThreadPoolExecutor

from benchmarks.live import Account, LiveView
from server.protocol import frames
from tests.browser.slow_line import SlowLine

ONE_MEGABIT = 125_000
"""Bytes a second."""
DRAG_SECONDS = 6.0


async def drag_exposure(view, seconds):
    """Change the exposure 60 times a second; returns [(age of a picture in s, its share of the frame's
    width)] and the last serial that was sent and shown."""
    loop = asyncio.get_running_loop()
    sent, pictures = {}, []
    newest = 0

    async def read():
        nonlocal newest
        while True:
            message = await view.next()
            if isinstance(message, tuple) and message[0].kind == frames.FRAME and message[0].serial in sent:
                info = message[0]
                assert info.serial >= newest, "no picture is older than the one before it"
                newest = info.serial
                pictures.append((loop.time() - sent[info.serial], info.width / info.full[0]))

    reading = asyncio.create_task(read())
    end, number = loop.time() + seconds, 0
    while loop.time() < end:
        serial = await view.preview("/look/exposure", (number % 60) / 60)
        sent[serial] = loop.time()
        number += 1
        await asyncio.sleep(1 / 60)
    for _ in range(300):
        if newest == serial or reading.done():
            break
        await asyncio.sleep(0.01)
    reading.cancel()
    if reading.done() and not reading.cancelled():
        reading.result()
    return pictures, serial, newest


async def measure(application, bytes_a_second):
    account = await asyncio.to_thread(Account, application.url)
    async with SlowLine(application.port, bytes_a_second) as line:
        view = await LiveView.open(account, 1, url=line.url)
        await view.frame(lambda info: True)
        await view.settle(2.5)
        before = line.passed
        pictures, sent, shown = await drag_exposure(view, DRAG_SECONDS)
        rate = (line.passed - before) / DRAG_SECONDS
        await view.close()
    return pictures, sent, shown, rate


def test_a_slow_client_gets_fewer_and_smaller_pictures_and_not_older_ones(application):
    # In a thread of its own: the browser's driver has an event loop running in this one.
    with ThreadPoolExecutor(1) as pool:
        slow, sent, shown, rate = pool.submit(asyncio.run, measure(application, ONE_MEGABIT)).result()
        fast, *_ = pool.submit(asyncio.run, measure(application, 100 * ONE_MEGABIT)).result()
    assert shown == sent, "the last edit is shown"
    assert rate < 1.1 * ONE_MEGABIT, "the line is as slow as it says"
    assert len(slow) < len(fast), "fewer"
    half = len(slow) // 2
    assert statistics.median(width for _, width in slow[half:]) < 0.95, "smaller"
    ages = [age for age, _ in slow[half:]]
    assert statistics.median(ages) < 1.0, "and not older: a picture on its way and one behind it, each of 0.25 s"
    assert len(slow) > DRAG_SECONDS, "but still moving"
