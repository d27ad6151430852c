"""A teacher, a class, an exercise that is given out."""

import pytest
from tests.web.learning import Somebody, made


@pytest.fixture
def teacher(app, database) -> Somebody:
    return Somebody(app, database, "Ona Reed")


@pytest.fixture
def of_class(teacher) -> str:
    return teacher.goes("/classes", name="Form and fit").rsplit("/", 1)[1]


@pytest.fixture
def exercise(teacher, of_class) -> str:
    return made(teacher, of_class)
