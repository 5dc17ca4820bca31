"""What is remembered of results, within budgets."""
