"""What the tests over HTTP share."""

import pytest


@pytest.fixture
def file(server, address):
    """The database that the served application writes to."""
    return server.app.state.connections.file
