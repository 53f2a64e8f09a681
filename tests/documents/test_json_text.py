"""JSON without spaces: the same values whichever writer takes them."""

from decimal import Decimal

import numpy as np
import pytest
import simplejson

from even_sieve.documents.json_text import compact

VALUES = [
    [1.5, -0.0, 1e300, 5e-324, True, None, "é\u2028\x00\"", {"b": 1, "a": []}],
    [Decimal("1.10"), Decimal("123456789012345678901234567890.5"), np.float64(0.1)],
    [2**64, -(2**70), Decimal("0.1"), {"b": 1, "a": 2}],  # beyond 64 bits
    ["\ud800", 1.5],  # half a letter
]  # fmt: skip


@pytest.mark.parametrize("value", VALUES)
def test_what_is_read_back_is_what_was_written(value):
    for in_order in (False, True):
        text = compact(value, in_order=in_order)
        again = simplejson.loads(text, use_decimal=True)
        exact = [Decimal(repr(float(v))) if isinstance(v, float) else v for v in value]
        assert (again, " " in text) == (exact, False)
    assert '{"a":' in text or '{"b":' not in text


def test_what_json_has_no_form_of_is_refused():
    with pytest.raises(TypeError):
        compact([object()])
