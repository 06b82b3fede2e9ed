"""Work shared among machines: pieces, who takes which, and a thousand machines on paper."""

import heapq

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.engine.filling import fill
from lantern.film.blocks import BLOCK, shape_of
from lantern.sharing.handing import Holder, OpenPiece, next_piece
from lantern.sharing.parts import lay_in, part_of
from lantern.sharing.pieces import divided, piece_count
from tests.core.test_planning import scene as ball_scene


@pytest.mark.parametrize("region", [(0, 0, 330, 200), (37, 21, 200, 143), (16, 16, 16, 16), (5, 3, 2, 1)])
@pytest.mark.parametrize("count", [1, 7, 64, 10_000])
def test_pieces_cover_the_region_once_and_cost_about_the_same(region, count):
    costs = np.random.default_rng(5).uniform(1, 20, shape_of(330, 200))
    pieces = divided(region, costs, count)
    seen = np.zeros((200, 330), int)
    for piece in pieces:
        x, y, width, height = piece.region
        assert width > 0 and height > 0
        seen[y : y + height, x : x + width] += 1
        for edge, first, last in ((x, region[0], region[0] + region[2]), (y, region[1], region[1] + region[3])):
            assert edge % BLOCK == 0 or edge in (first, last), "no block is cut"
    x, y, width, height = region
    assert (seen[y : y + height, x : x + width] == 1).all() and seen.sum() == width * height
    assert len(pieces) <= count
    dear = [piece.cost for piece in pieces]
    assert dear == sorted(dear, reverse=True)
    if count == 7 and width > 100:
        assert max(dear) < 2 * sum(dear) / count


def test_work_that_is_nowhere_can_be_cut_all_the_same():
    assert sum(piece.region[2] * piece.region[3] for piece in divided((0, 0, 64, 48), np.zeros((3, 4)), 5)) == 64 * 48


def test_how_many_pieces_there_are():
    assert piece_count(1.0, [1.0, 1.0]) == 1, "too little to share"
    assert piece_count(1000.0, [1.0, 1.0]) == 50
    assert piece_count(1e6, [1.0, 1.0]) == pytest.approx(1e6 / 30, abs=1)
    with pytest.raises(ValueError, match="more than 0"):
        piece_count(1.0, [])


def test_the_dearest_piece_comes_first_and_then_what_is_late():
    pieces = [OpenPiece(1, 5.0), OpenPiece(2, 9.0), OpenPiece(3, 99.0, (Holder(0.0, 1.0),))]
    assert next_piece(pieces, 10.0, 1.0) == 2
    assert next_piece(pieces[2:], 10.0, 1.0) is None, "who has it will be done before"
    assert next_piece(pieces[2:], 10.0, 50.0) == 3
    stuck = OpenPiece(4, 10.0, (Holder(0.0, 1.0),))
    assert next_piece([stuck], 15.0, 1.0) is None and next_piece([stuck], 25.0, 1.0) == 4, "it was to be done at 10"
    assert next_piece([OpenPiece(5, 1.0, (Holder(0, 1), Holder(0, 1)))], 1e6, 1.0) is None, "two are enough"


def makespan(costs, speeds, deaths, overhead):
    """(when all pieces are done, what the machines could have done until then) of a paper run, by the real policy.

    `deaths` are when machines end [s], infinite for those that live; what they held is free again 15 s later.
    """
    held, done = {}, set()
    open_ones = dict(enumerate(costs))
    free = [(-cost, number) for number, cost in open_ones.items()]
    heapq.heapify(free)
    events = [(0.0, worker, None) for worker in range(len(speeds))]
    heapq.heapify(events)
    waiting = []
    while events:
        now, worker, number = heapq.heappop(events)
        if worker < 0:  # a dead machine's piece is free again
            if number not in done and (holders := held.get(number)) is not None:
                holders.pop(-worker - 1, None)
                if not holders:
                    heapq.heappush(free, (-costs[number], number))
                    events += [(now, other, None) for other in waiting]
                    heapq.heapify(events)
                    waiting = []
            continue
        if now >= deaths[worker]:
            if number is not None:
                heapq.heappush(events, (max(now, deaths[worker] + 15.0), -worker - 1, number))
            continue
        if number is not None and number not in done:
            done.add(number)
            held.pop(number, None)
            if len(done) == len(costs):
                return now
        while free and (free[0][1] in done or (free[0][1] in held and held[free[0][1]])):
            heapq.heappop(free)
        if free:
            seen = [OpenPiece(free[0][1], -free[0][0])]
        else:
            seen = [OpenPiece(piece, costs[piece], tuple(holders.values())) for piece, holders in held.items()]
        taken = next_piece(seen, now, speeds[worker])
        if taken is None:
            waiting.append(worker)
            continue
        if not held.get(taken):
            heapq.heappop(free)
        held.setdefault(taken, {})[worker] = Holder(now, speeds[worker])
        end = now + costs[taken] / speeds[worker] + overhead
        heapq.heappush(events, (min(end, max(deaths[worker], now)), worker, taken))
    raise AssertionError("nobody is left, and not all is done")


@pytest.mark.parametrize("dying", [0, 50])
def test_a_thousand_machines_are_done_within_a_tenth_of_the_bound(dying):
    chance = np.random.default_rng(11)
    speeds = np.exp(chance.normal(0, 0.5, 1000))
    seconds = 900.0
    deaths = np.full(1000, np.inf)
    deaths[chance.permutation(1000)[:dying]] = chance.uniform(0, seconds, dying)
    work = speeds.sum() * seconds
    costs = divided((0, 0, 16384, 9216), chance.uniform(1, 30, shape_of(16384, 9216)), piece_count(work, list(speeds)))
    scale = work / sum(piece.cost for piece in costs)
    took = makespan([scale * piece.cost for piece in costs], speeds, deaths, overhead=0.2)
    lost = sum(speed * max(took - death, 0) for speed, death in zip(speeds, deaths, strict=True))
    bound = (work + lost) / speeds.sum()
    assert bound <= took < 1.1 * bound, f"{took:.0f} s against {bound:.0f} s"


@pytest.mark.parametrize("more", [{}, {"finish_noise": 1.0}, {"layers": True}])
def test_a_film_of_pieces_is_equal_to_the_bit(more):
    scene = ball_scene()
    settings = scene.print.model_copy(update={"width": 200, "height": 120, "samples": 24, **more})
    engine = Engine(2, final=True)
    engine.open(scene, None)

    def filled(film, stop=10**9):
        assert fill(engine, film, settings, lambda done: done < stop)
        return film

    def empty():
        return engine.film_for(200, 120, aovs=settings.layers)

    whole, base = filled(empty()), filled(empty(), stop=5)
    kept = {name: rows.copy() for name, rows in base.arrays().items()}
    elsewhere = empty()
    assert elsewhere.restore(kept)
    for piece in reversed(divided((0, 0, 200, 120), np.ones(shape_of(200, 120)), 7)):
        elsewhere.select(piece.region)
        filled(elsewhere)
        lay_in(base, piece.region, part_of(elsewhere))
    assert base.is_done(settings.samples)
    for name, rows in whole.arrays().items():
        assert rows.tobytes() == base.arrays()[name].tobytes(), name
    with pytest.raises(ValueError, match="does not fit"):
        lay_in(base, (0, 0, 8, 8), part_of(whole))
    engine.close()
