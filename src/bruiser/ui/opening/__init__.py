"""Before and around a campaign: the start page, a new campaign, and going to anything in it."""
