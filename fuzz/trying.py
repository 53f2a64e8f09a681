"""How hypothesis is asked for so many examples, made again by a name."""

from hypothesis import HealthCheck, Phase, given, seed, settings


def examples(name, strategy, tried, count):
    """Try so many examples of a strategy, the same ones for the same name."""

    @seed(name)
    @settings(
        max_examples=count,
        database=None,
        deadline=None,
        report_multiple_bugs=False,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(strategy)
    def attempt(example):
        tried(example)

    attempt()
