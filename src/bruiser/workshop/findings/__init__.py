"""What was found after a pull.

Findings, photos, exclusions, traces read anew, and the history of it all. A void pull is
replaced in the queue from here.
"""
