"""What a person does to the shot, by name: each is one undoable step."""
