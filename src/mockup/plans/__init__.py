"""What would happen if: what-ifs, remedies, room, map, which cam, parts to order.

Every plan evaluates a changed job; none has arithmetic of its own for a clearance.
"""
