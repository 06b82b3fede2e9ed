"""Cities by name: against what an atlas and the almanac say."""

from datetime import date

import pytest

from lantern.light.daylight import sun_of
from lantern.scene.surroundings import Sky, SunPlace
from lantern.shelf.cities import MOST_FOUND, find_cities

SUMMER, WINTER = date(2026, 6, 21), date(2026, 12, 21)


def test_a_city_is_found_without_marks_and_by_its_other_names():
    for words in ("zurich", "Zürich", "  ZÜR"):
        assert find_cities(words, SUMMER)[0].name.startswith("Z"), words
    vienna = find_cities("wien", SUMMER)[0]
    assert vienna.country == "Austria" and vienna.latitude == pytest.approx(48.2, abs=0.1)
    assert find_cities("", SUMMER) == [] and find_cities("no such city anywhere", SUMMER) == []


def test_the_largest_comes_first_and_there_are_never_too_many():
    found = find_cities("par", SUMMER)
    assert found[0].name == "Paris" and found[0].country == "France" and len(found) == MOST_FOUND


def test_clocks_are_those_of_the_day():
    summer, winter = (find_cities("vienna", day)[0].zone for day in (SUMMER, WINTER))
    assert (summer, winter) == (2.0, 1.0)
    assert find_cities("kathmandu", SUMMER)[0].zone == 5.75


def test_the_sun_of_a_city_is_highest_about_its_noon():
    """At Quito, on the equator, it stands within two degrees of the zenith at the equinox."""
    quito = find_cities("quito", date(2026, 3, 20))[0]
    place = SunPlace(latitude=quito.latitude, longitude=quito.longitude, zone=quito.zone, date="2026-03-20", hour=12.35)
    assert sun_of(Sky(place=place)).elevation > 88
