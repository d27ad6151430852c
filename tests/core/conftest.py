"""Every test of the core is held to the law of kept shapes (``tests.watch``)."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from tests.watch import watched


@pytest.fixture(autouse=True)
def kept_shapes_stay() -> Iterator[None]:
    with watched() as watch:
        yield
        watch.check("at the end of the test")
