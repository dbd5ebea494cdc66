"""Questions that one motion does not answer: what number gives what is wanted, how a design behaves over many."""
