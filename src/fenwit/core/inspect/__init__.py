"""A control that exists: what it does with this fan or a lamp, what is wrong with it, and how to find out."""
