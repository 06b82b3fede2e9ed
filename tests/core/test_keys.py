"""Keys of new entries: free, the least there is, quick among any number of namesakes."""

from hypothesis import given
from hypothesis import strategies as st

from lantern.assets.keys import unique_key
from lantern.scene.keys import free_key, free_number


@given(st.sets(st.integers(1, 400)), st.integers(1, 3))
def test_a_free_number_is_free_and_the_least_behind_a_whole_row(gaps, first):
    whole = {f"bead-{number}" for number in range(first, 300)}
    assert free_number(whole, "bead", first) == 300
    some = {f"bead-{number}" for number in gaps}
    assert f"bead-{free_number(some, 'bead', first)}" not in some


def test_a_hundred_thousand_namesakes_get_keys_of_their_own():
    taken = {}
    for _ in range(100_000):
        taken[unique_key("Mesh", taken)] = None
    assert list(taken)[:3] == ["mesh", "mesh-2", "mesh-3"] and len(taken) == 100_000
    assert len(free_key(taken, "x" * 80)[0]) <= 80
