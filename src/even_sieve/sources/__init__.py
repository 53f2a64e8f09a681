"""Sources: where tables come from. Each reader makes a core table; none works anything out."""
