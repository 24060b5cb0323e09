"""A wiring typed once, by terminals and nets, and everything read from it (docs/wiring.md).

document   the file `fenwit-circuit/1`, read and refused          written    the same, written again
live       one state of the contacts: rails, volts, what runs       walk       from state to state, one contact at a time
table      rows, passing states, hazards with their rows            hazards    what is dangerous in one state
dead       ohms with the power off, bands, what carries them        faults     single faults that explain an odd ohm
lamps      the lamp test before the motor is joined                  order      connections, cables, cores in order
retrofit   an EC motor in place of a tapped one                      answer     all of it as `fenwit-wire/1`
"""
