"""Kinds are found once, whoever asks first."""

import subprocess
import sys

ASK = """
import threading
from sketchlathe.core.steps.base import STEPS
from sketchlathe.core.model.edits import EDITS
failed = []
def ask(registry, kind):
    try:
        registry[kind]
    except Exception as problem:
        failed.append(problem)
threads = [threading.Thread(target=ask, args=pair) for pair in [(STEPS, "extrude"), (EDITS, "add_step")] * 8]
for t in threads: t.start()
for t in threads: t.join(30)
assert not failed and not any(t.is_alive() for t in threads), failed
"""


def test_many_threads_may_ask_at_once_in_a_fresh_process() -> None:
    subprocess.run([sys.executable, "-c", ASK], check=True, timeout=60)
