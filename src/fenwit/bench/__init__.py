"""Instruments and devices behind one interface, simulated ones that ship with Fenwit and real ones (docs/devices.md)."""
