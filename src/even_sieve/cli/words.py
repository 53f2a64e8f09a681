"""The words of a call again, from what click made of them."""

from collections.abc import Collection
from datetime import datetime

import click

_GIVEN = click.core.ParameterSource.COMMANDLINE


def is_given(context: click.Context, name: str) -> bool:
    """Tell whether a parameter stands on the command line."""
    return context.get_parameter_source(name) is _GIVEN


def option_words(context: click.Context, left_out: Collection[str]) -> list[str]:
    """Return the options of a call as words that say the same again."""
    words: list[str] = []
    for option in context.command.params:
        name = option.name or ""
        if isinstance(option, click.Option) and is_given(context, name) and name not in left_out:
            words += _words(option, context.params[name])
    return words


def argument_words(context: click.Context) -> list[str]:
    """Return the arguments of a call."""
    words: list[str] = []
    for argument in context.command.params:
        if isinstance(argument, click.Argument):
            value = context.params[argument.name or ""]
            words += map(str, value if isinstance(value, tuple) else (value,))
    return words


def _words(option: click.Option, value: object) -> list[str]:
    if option.is_flag:
        return [option.opts[0]]
    values = value if isinstance(value, tuple | list) else [value]
    said = [str(each.date()) if isinstance(each, datetime) else str(each) for each in values]
    return [word for each in said for word in (option.opts[0], each)]
