"""The commands of ``./lathe``: one module each, named as the command."""
