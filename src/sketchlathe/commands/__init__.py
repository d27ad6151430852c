"""The commands of ``./lathe``: one module each, named as the command."""


def say(text: str) -> None:
    """Tell whoever started us."""
    print(f"lathe: {text}", flush=True)
