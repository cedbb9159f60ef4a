"""Quick checks: a few numbers judged by themselves, as a job of their own, before more of an engine is known."""
