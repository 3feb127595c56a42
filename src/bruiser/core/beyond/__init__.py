"""What pulls say beyond their own lot, hands and bench: other cordages, other people.

It takes what the room of performance made of each group.
"""
