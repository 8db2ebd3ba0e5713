# What one does with Gonfalon on one machine. Each command installs what it misses; see README.md.
COMMANDS := start demo demo-reset demo-large test test-long clocks check screenshots bench
.PHONY: $(COMMANDS)
$(COMMANDS):
	@python3 -m tools $@
