"""What moves by plan and meets the body: carried along, pushed aside, squeezed."""
