"""The science of wood and water: pure Python and NumPy, without interface, clock, network or database.

Units inside: degrees Celsius, relative humidity and moisture content as fractions (dry basis), metres, kilograms, days;
the unit stands in the name. Out-of-range input raises an error of :mod:`wood.errors`; nothing is clamped silently.
"""
