"""Python begins here where ``standins.clock`` says so."""

from sketchlathe.standins.clock import follow

follow()
