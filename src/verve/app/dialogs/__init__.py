"""What opens beside the window: one module for each."""
