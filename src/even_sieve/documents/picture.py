"""Figures that a notebook shows by themselves."""

from io import BytesIO

from matplotlib.figure import Figure


class Picture(Figure):
    """A figure of Matplotlib that is a picture at the end of a cell, whatever else was imported."""

    def _repr_png_(self) -> bytes:
        out = BytesIO()
        self.savefig(out, format="png", dpi=self.dpi / 1.4)
        return out.getvalue()
