"""What one build leaves for a shop to remember: sums that add up over many builds.

Storing them is for the web application.
"""
