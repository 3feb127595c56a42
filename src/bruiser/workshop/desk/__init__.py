"""What is settled before a plan.

The brief, cordage and its stock, knots in play, and how a piece is prepared. Texts of forms
become commands here, or a message a field.
"""
