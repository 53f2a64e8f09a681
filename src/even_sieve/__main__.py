"""`python -m even_sieve` is `even-sieve`."""

from even_sieve.cli.entry import run

if __name__ == "__main__":
    run()
