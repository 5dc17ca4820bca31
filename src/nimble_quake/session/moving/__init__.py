"""What a person does to values that move: motions, gestures, pins, a shot that closes."""
