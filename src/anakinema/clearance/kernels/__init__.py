"""The compiled loops of clearance: `tables` says what they read, `series` how a pair moves, `gaps` how far two features
are apart, `overlap` whether outlines do, `search` the least distance, `depth` the deepest overlap."""
