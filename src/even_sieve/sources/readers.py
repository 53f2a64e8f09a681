"""Which module reads a file, by the ending of its name."""

#: The reader's module for each ending of a file name. Readers load when they are needed.
READERS = {
    ".csv": "even_sieve.sources.csv",
    ".txt": "even_sieve.sources.csv",
    ".tsv": "even_sieve.sources.csv",
    ".tab": "even_sieve.sources.csv",
    ".jsonl": "even_sieve.sources.json_lines",
    ".ndjson": "even_sieve.sources.json_lines",
    ".parquet": "even_sieve.sources.parquet",
    ".arrow": "even_sieve.sources.arrow_file",
    ".feather": "even_sieve.sources.arrow_file",
    ".ods": "even_sieve.sources.ods",
    ".xlsx": "even_sieve.sources.xlsx",
    ".xlsm": "even_sieve.sources.xlsx",
}

#: The module that reads long files of an ending in pieces; None from it: to be read whole.
IN_PIECES = {
    **dict.fromkeys((".csv", ".txt", ".tsv", ".tab"), "even_sieve.sources.long_csv"),
    **dict.fromkeys(
        (".parquet", ".arrow", ".feather", ".jsonl", ".ndjson"), "even_sieve.sources.long_typed"
    ),
}

#: The endings of files that may have several sheets.
WORKBOOKS = (".ods", ".xlsx", ".xlsm")

#: The endings of files that are databases; the last is that of many other things too.
DATABASES = (".sqlite", ".sqlite3", ".db")
