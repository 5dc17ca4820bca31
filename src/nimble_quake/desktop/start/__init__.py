"""The page one begins from: what is put in at the left, starters with moving pictures at the right."""
