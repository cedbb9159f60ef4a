"""What is written down of a build: who did what and when, and the build sheet as a page and as a PDF."""
