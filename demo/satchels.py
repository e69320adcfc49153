"""The demo's shelf: four satchels of Harrow Fen, and where each is going."""

import json
from pathlib import Path
from typing import Any

__all__ = ["write_satchels"]

_ARCHIVE_NAMES = {"no_spaces": True, "ascii_only": True, "most_letters": 64}
# The last one is changed last, and stands first on the shelf.
_SATCHELS: tuple[dict[str, Any], ...] = (
    {
        "name": "Logs for the county archive",
        "limit_bytes": 100_000_000,
        "preset": "record-office",
        "checklist": {"endings": [".pdf", ".tif"], "names": _ARCHIVE_NAMES},
        "files": {"logs": ["Log of the lower ride, 1987.tif"]},
    },
    {
        "name": "Open day, for the website",
        "limit_bytes": 1_000_000,
        "preset": "post",
        "files": {"": ["Open day poster.ora", "Open day.jpg"]},
    },
    {
        "name": "Newsletter to the members",
        "limit_bytes": 5_000_000,
        "limit_carrier": "message",
        "is_limit_shared": True,
        "preset": "reading-desk",
        "files": {"": ["A walk round the reed bed.pdf"]},
    },
    {
        "name": "Season papers for the record office",
        "limit_bytes": 5_000_000,
        "files": {
            "reports": [
                "Annual report.pdf",
                "Ringing totals and methods.pdf",
                "Volunteers' handbook.docx",
                "Volunteers' handbook.odt",
                "Ringing ledger.xlsx",
                "Reed bed talk.pptx",
                "Reed bed talk.odp",
                "Birds by month.bmp",
            ],
            "logs": ["Ringing logs, scanned.pdf"],
            "photos": ["Nest box 14.jpg"],
        },
    },
)


def write_satchels(folder: Path, made_in: Path) -> Path:
    """The list of satchels as a file in `folder`, for the command `make_demo`.

    made_in: where the files lie that stand in them.
    """
    satchels = [
        {
            **satchel,
            "files": [
                {"path": str(made_in / name), "folder": place}
                for place, names in satchel["files"].items()
                for name in names
            ],
        }
        for satchel in _SATCHELS
    ]
    path = folder / "satchels.json"
    path.write_text(json.dumps(satchels, indent=1))
    return path
