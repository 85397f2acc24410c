"""Write openapi.json, from which the front end's types are generated. Needs no database."""

import json
from pathlib import Path

from neige.web.app import create_app

if __name__ == "__main__":
    app = create_app("postgresql://nowhere/none")
    Path("openapi.json").write_text(json.dumps(app.api_doc, indent=1, sort_keys=True) + "\n")  # type: ignore[attr-defined]
