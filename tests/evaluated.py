"""The evaluator of the tests that ask no page."""

from pebble_wheel.workshop.evaluator import Evaluator

EVALUATOR = Evaluator()
read_of = EVALUATOR.read
