"""What Python programs use: tables that tally and sift, and results that print themselves."""
