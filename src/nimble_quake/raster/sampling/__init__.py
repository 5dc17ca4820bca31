"""Looking pictures up between their pixels."""
