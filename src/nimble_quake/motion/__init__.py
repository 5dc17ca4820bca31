"""What a moving value is at a time: keys and easing, rate, formula."""
