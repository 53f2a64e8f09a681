"""`python -m even_sieve` is `even-sieve`."""

from even_sieve.cli.main import main

if __name__ == "__main__":
    main()
