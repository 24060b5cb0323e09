"""How a fan is wired: as it is typed, as it is kept, and all that is read from it.

edits      what is typed of it                       solved     the circuit with its table, tests, work and drawing
reads      ticks and readings, judged                pick       parts by drawer, and what is to get
offers     points worth adding to the dead tests     shown      what the stage shows        page       the stage itself
"""
