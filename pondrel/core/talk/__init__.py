"""How a tester and control modules speak on the wire: segments, services, refusals, codes with their status. Bytes in, bytes out."""
