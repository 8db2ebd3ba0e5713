"""Walk lists: what a role is to be tried on, ticked off by doing it in a rehearsal."""
