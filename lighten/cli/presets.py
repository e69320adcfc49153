"""The verb presets: the shipped ones."""

import argparse
import json

from lighten import PRESETS, preset_report, preset_to_json
from lighten.cli.printing import DONE

__all__ = ["list_presets"]


def list_presets(options: argparse.Namespace) -> int:
    """Print all presets, or one as a file; the exit code."""
    if options.export:
        print(json.dumps(preset_to_json(options.export), indent=2))
    elif options.json:
        print(json.dumps([preset_report(preset) for preset in PRESETS], indent=2))
    else:
        for preset in PRESETS:
            print(f"{preset.title:<14}{preset.description}")
    return DONE
