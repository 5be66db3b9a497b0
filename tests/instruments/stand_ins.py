"""A stand-in meter on a sound loop, served for a test."""

import random
from collections.abc import Iterator
from contextlib import contextmanager

from spare_margin.core.bay.world import World, WorldWanted, world
from spare_margin.data.tables import shipped_tables
from spare_margin.instruments.stand_in.meter import StandInMeter
from spare_margin.instruments.stand_in.scpi_server import ScpiServer

TABLES = shipped_tables()


def sound_world(seed: int = 3) -> World:
    return world(random.Random(seed), WorldWanted("series", 0), TABLES)


@contextmanager
def served(meter: StandInMeter | None = None) -> Iterator[ScpiServer]:
    """A stand-in that answers until the test is done."""
    server = ScpiServer(meter or StandInMeter(sound_world(), "m1"))
    server.start()
    try:
        yield server
    finally:
        server.stop()
