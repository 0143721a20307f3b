"""What is heard of all takes."""
