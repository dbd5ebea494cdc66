"""Look: the two themes, the shipped typeface, icons and joint symbols."""
