"""What a page does wrong as it is: one module a fault, ``find(facts)`` yields findings."""
