"""The front end's API types, generated from the OpenAPI schema. `--check` only compares."""

import os
import sys
import tempfile
from pathlib import Path

from tools.console import ROOT, Trouble, report, run
from tools.install import PYTHON, WEB

TYPES = WEB / "src" / "api" / "schema.d.ts"


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        schema, types = Path(folder) / "schema.json", Path(folder) / "schema.d.ts"
        env = {"GONFALON_SECRET_KEY": "not used for anything", **os.environ}
        run(
            "Describing the API",
            [str(PYTHON), "manage.py", "spectacular", "--format", "openapi-json", "--file", str(schema)],
            env=env,
        )
        convert = ["npx", "--no-install", "openapi-typescript", str(schema), "-o", str(types)]
        run("Writing the types", convert, cwd=WEB)
        fresh = types.read_text()
    if "--check" not in sys.argv:
        TYPES.write_text(fresh)
        return 0
    if not TYPES.exists() or TYPES.read_text() != fresh:
        raise Trouble(f"{TYPES.relative_to(ROOT)} is not what the API says. Run: python3 -m tools.api_types")
    return 0


if __name__ == "__main__":
    report(main)
