"""What to do, ask or doubt next: questions, next steps, progress, the assembly list.

It reads finished checks and never changes a figure.
"""
