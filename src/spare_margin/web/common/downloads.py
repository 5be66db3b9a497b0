"""What a browser saves as a file."""

from flask import Response


def attached(body: bytes | str, name: str, kind: str) -> Response:
    """A file to be saved under a name; only plain letters of the name are kept."""
    plain = "".join(c if c.isascii() and (c.isalnum() or c in "-_.") else "-" for c in name)
    header = {"Content-Disposition": f'attachment; filename="{plain}"'}
    return Response(body, content_type=kind, headers=header)
