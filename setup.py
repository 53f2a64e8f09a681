"""What `pyproject.toml` cannot say yet: the one module in C.

It tells the cells of texts apart in one pass over their bytes, and which texts may look like
numbers or dates. Where it cannot be compiled NumPy and Arrow do the same in several passes, and
nothing else changes.
"""

from setuptools import Extension, setup

PARTS = ("cells", "likeness", "doubles", "letters", "alike")

setup(
    ext_modules=[
        Extension(
            "even_sieve.sources._cells",
            [f"src/even_sieve/sources/_{part}.c" for part in PARTS],
            depends=["src/even_sieve/sources/_cells.h"],
            optional=True,
            py_limited_api=True,
        )
    ],
    options={"bdist_wheel": {"py_limited_api": "cp311"}},
)
