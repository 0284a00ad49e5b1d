"""Values that a JSON schema allows, as somebody would send them who means no good or has a broken program."""

from typing import Any

from hypothesis import strategies as st
from hypothesis.strategies import SearchStrategy

Schema = dict[str, Any]

# Words that mean something here, and texts that break things elsewhere.
TELLING = ["town", "first_name", "address", "field_walks", "M-01", "ada@slatepost.example", "all", "any", "everyone",
    'town is "Skarn"', "@{first_name}", "2026-12-01", "1,5"]  # fmt: skip
HOSTILE = ["", " ", "\0", "a\0b", "\ud800", "\u202eexe", "🦉", "%", "_", "\\", "'; --", "=1+1", "nan", "1e400", "-0",
    "2026-02-30", "0000-00-00", "@{", "((((", "x" * 5_000]  # fmt: skip
TEXTS = st.sampled_from(TELLING) | st.sampled_from(HOSTILE) | st.text(max_size=12)
# Ids of rows that are there come first.
INTEGERS = st.integers(1, 3) | st.integers(1, 12) | st.sampled_from([0, -1, 2**31, 2**63, 10**30])
MOMENTS = st.sampled_from(["2026-12-01T09:00:00Z", "0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-12:00"])
ANYTHING = st.none() | st.booleans() | INTEGERS | TEXTS | st.lists(INTEGERS | TEXTS, max_size=2)


def any_value(schema: Schema, named: dict[str, Schema]) -> SearchStrategy[Any]:
    """Values that a schema of OpenAPI 3.1 allows, its bounds kept where they are easily kept; `named`: its components."""
    if "$ref" in schema:
        return st.deferred(lambda: any_value(named[schema["$ref"].rsplit("/", 1)[1]], named))
    if "const" in schema:
        return st.just(schema["const"])
    if "enum" in schema:
        return st.sampled_from(schema["enum"])
    for choice in ("anyOf", "oneOf"):
        if choice in schema:
            return st.one_of([any_value(one, named) for one in schema[choice]])
    match schema.get("type"):
        case "string":
            return MOMENTS | TEXTS if schema.get("format") == "date-time" else TEXTS
        case "integer":
            return INTEGERS
        case "number":
            return INTEGERS | st.floats(0, 100)
        case "boolean":
            return st.booleans()
        case "null":
            return st.none()
        case "array" if "prefixItems" in schema:
            return st.tuples(*[any_value(one, named) for one in schema["prefixItems"]]).map(list)
        case "array":
            return st.lists(any_value(schema.get("items", {}), named), max_size=3)
        case "object" if "properties" in schema:
            parts = {key: any_value(one, named) for key, one in schema["properties"].items()}
            needed = set(schema.get("required", []))
            return st.fixed_dictionaries(
                {key: part for key, part in parts.items() if key in needed},
                optional={key: part for key, part in parts.items() if key not in needed},
            )
        case "object":
            more = schema.get("additionalProperties")
            values = any_value(more, named) if isinstance(more, dict) and more else ANYTHING
            return st.dictionaries(TEXTS, values, max_size=3)
    return ANYTHING
