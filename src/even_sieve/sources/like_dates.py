"""What is told of texts of a column that look like dates and are none."""

from dataclasses import replace

import numpy as np

from even_sieve.core.cells import Kind, all_like_dates, read_date
from even_sieve.core.cells.dates import spans_of_date
from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Column
from even_sieve.core.table.how_to_read import SHOWING, option_for_dates
from even_sieve.core.table.lanes import TextLane
from even_sieve.core.table.likes import count_like
from even_sieve.sources.text_lanes import lane_of_first


def with_date_notice(column: Column, count: int | None = None) -> Column:
    """Return the column with a notice if texts look like dates that could be read two ways.

    `count` is how many do, where they are not all here.
    """
    lane = column.lanes.get(Kind.TEXT)
    if not isinstance(lane, TextLane):
        return column
    shown, waiting = column, lane.of_rows
    if waiting is not None:  # those are put in order that are told of
        places = waiting.places_like(all_like_dates)
        count = len(places) if count is None else count
        lane = lane_of_first(waiting.spellings, places, SHOWING)
        shown = Column(column.name, len(lane.codes), {Kind.TEXT: lane})
    if shown.date_like is None:
        return column
    count = count_like(column, Likeness.DATE) if count is None else count
    example = lane.spellings[int(np.flatnonzero(shown.date_like)[0])]
    head = example[: len("2031-01-05")]
    lost = spans_of_date(head) is not None and read_date(head) is None
    text = (
        f"column '{column.name}': {counted(count, 'cell')} such as '{example}' "
        f"{'looks like a date but is' if count == 1 else 'look like dates but are'} "
        f"{'in no calendar' if lost else 'not written as YYYY-MM-DD'}; left as text"
    )
    option = option_for_dates(shown)
    text += f": see {option}" if option else ""
    return replace(column, notices=(*column.notices, Notice(Code.TEXT_LIKE_DATES, text)))
