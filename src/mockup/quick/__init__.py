"""Quick checks: a few numbers judged without a build, by evaluating a small job.

There is no second arithmetic here.
"""
