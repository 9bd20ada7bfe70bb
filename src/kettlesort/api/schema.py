"""Prints the OpenAPI document that the front end's client is generated from."""

import json

from kettlesort.api import app


def document() -> str:
    """The OpenAPI document as it is kept in the repository."""
    return json.dumps(app.openapi(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    print(document(), end="")
