"""One real server for the tests of pages: the demo, on a free port."""

import httpx
import pytest
from hypothesis import settings

from bench.serving import serving

settings.register_profile("suite", max_examples=40, deadline=None, derandomize=True)
settings.register_profile("few", max_examples=8, deadline=None, derandomize=True)
settings.register_profile("long", max_examples=3000, deadline=None)
settings.load_profile("suite")


@pytest.fixture(scope="session")
def demo_address():
    """A server on the demo that no test changes."""
    with serving(demo=True) as address:
        yield address


@pytest.fixture
def address():
    """A server on an empty shelf of the test's own."""
    with serving() as address:
        yield address


@pytest.fixture
def http(address):
    with httpx.Client(base_url=address) as client:
        yield client


@pytest.fixture
def demo_http(demo_address):
    with httpx.Client(base_url=demo_address) as client:
        yield client
