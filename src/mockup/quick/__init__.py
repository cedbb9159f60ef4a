"""Quick checks: a few numbers judged without a build, each by making a small job and evaluating it.

There is no second arithmetic here.
"""
