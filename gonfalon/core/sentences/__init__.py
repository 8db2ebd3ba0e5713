"""What is asked, expected and said of access as plain sentences, read and written (docs/sentences.md)."""
