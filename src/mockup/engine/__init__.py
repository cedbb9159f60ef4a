"""What the engine and its mock-up are: frozen data, validated where it is made."""
