"""Running Gonfalon on one machine: installing, the demo, the tests. Standard library only."""
