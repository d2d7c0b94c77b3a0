// Nothing of its own: the precompiled header of all tests belongs to some target, and this is it.
