"""One file a deed; the newest revision is ``schema.HEAD``."""
