"""Every test of the core is held to the law of kept shapes (``tests.watch``)."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from tests.watch import watched


@pytest.fixture(autouse=True)
def kept_shapes_stay(request: pytest.FixtureRequest) -> Iterator[None]:
    if request.node.get_closest_marker("damages"):
        yield
        return
    with watched() as watch:
        yield
        watch.check("at the end of the test")
