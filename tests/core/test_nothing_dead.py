"""What nobody calls goes."""

from pathlib import Path

from vulture import Vulture

import sketchlathe

# called by libraries, by name
CALLED = ["do_GET", "do_POST", "log_message", "load_config", "get_id", "_act_*"]
DECLARED = [
    "@handles*",
    "@*blueprint*",
    "@*validator*",
    "@*serializer*",
    "@app*",
    "@*loader*",
    "@*route*",
    "@*handler*",
]


def test_every_function_is_used_by_something() -> None:
    look = Vulture(ignore_names=CALLED, ignore_decorators=DECLARED)
    source = Path(sketchlathe.__file__).parent
    look.scavenge([source, source.parents[1] / "bench", source.parents[1] / "tests" / "store"])
    found = [*look.unused_funcs, *look.unused_methods, *look.unused_props]
    assert [
        f"{item.filename}:{item.first_lineno} {item.name}" for item in found if "versions" not in str(item.filename)
    ] == []
