"""Speed as ratios within one run. `make bench` prints what was compared with what."""
