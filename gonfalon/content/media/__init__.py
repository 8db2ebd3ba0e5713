"""Files of pictures and documents: read and cleaned as they come in, kept with their nodes, made in further sizes.

incoming = read_incoming("sail-loft.jpg", content)      # before anything is locked; raises NotKept
attach(row, incoming, by)                               # in the unit that makes or changes the node
"""
