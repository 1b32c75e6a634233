"""Styles, scripts and fonts, at addresses that carry a mark of their content.

All share one mark, so that what a script imports and what a stylesheet names beside itself is marked too. What is asked
for under another mark is given as it is now, and not to be kept.
"""

import hashlib
from pathlib import Path

from starlette.exceptions import HTTPException
from starlette.responses import FileResponse, Response

WEB = Path(__file__).parent.parent
KEPT = {"cache-control": "public, max-age=31536000, immutable"}
ASKED_AGAIN = {"cache-control": "no-cache"}


class Assets:
    """The files by name."""

    def __init__(self, files: list[Path]) -> None:
        self._files = {file.name: file for file in sorted(files)}
        digest = hashlib.sha256()
        for name, file in self._files.items():
            digest.update(name.encode() + b"\0" + file.read_bytes())
        self.mark = digest.hexdigest()[:12]

    def address(self, name: str) -> str:
        """Return the address of a file.

        Raises:
            KeyError: where there is none such.
        """
        return f"/static/{self.mark}/{self._files[name].name}"

    def give(self, mark: str, name: str) -> Response:
        """Answer a request for a file under a mark.

        Raises:
            HTTPException: where there is no such file.
        """
        if name not in self._files:
            raise HTTPException(404)
        return FileResponse(self._files[name], headers=KEPT if mark == self.mark else ASKED_AGAIN)


ASSETS = Assets([*(WEB / "shared" / "static").iterdir(), *WEB.glob("screens/*/*.js")])
