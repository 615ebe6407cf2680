#!/usr/bin/env python3
"""Makes lantern-quay.gltf: two quays with a canal between them, a bridge with stairs, jetties, stalls, crates, and a
store, a customs shed and a house of two floors, whose roofs are a leap apart. Metres; Z is up here and Y in the file.

Run it in this folder:  ./lantern_quay.py
"""

import base64
import json
import struct

nodes = {}  # name: quads, each of four corners


def quad(name, a, b, c, d):
    nodes.setdefault(name, []).append((a, b, c, d))


def box(name, x0, y0, z0, x1, y1, z1):
    """From corner to corner, its sides facing outwards."""
    quad(name, (x0, y0, z0), (x0, y1, z0), (x1, y1, z0), (x1, y0, z0))
    quad(name, (x0, y0, z1), (x1, y0, z1), (x1, y1, z1), (x0, y1, z1))
    quad(name, (x0, y0, z0), (x1, y0, z0), (x1, y0, z1), (x0, y0, z1))
    quad(name, (x1, y0, z0), (x1, y1, z0), (x1, y1, z1), (x1, y0, z1))
    quad(name, (x1, y1, z0), (x0, y1, z0), (x0, y1, z1), (x1, y1, z1))
    quad(name, (x0, y1, z0), (x0, y0, z0), (x0, y0, z1), (x0, y1, z1))


def steps(name, x0, x1, y, depth, height, count, base=0.0):
    """Solid steps between x0 and x1, upwards along y, or downwards when the depth is negative."""
    for i in range(count):
        y0, y1 = sorted((y + i * depth, y + (i + 1) * depth))
        box(name, x0, y0, base, x1, y1, base + (i + 1) * height)


# The quays, the canal, and a low kerb along the water.
box("south quay", 0, 0, -2, 40, 14, 0)
box("north quay", 0, 20, -2, 40, 32, 0)
quad("water", (0, 14, -1), (40, 14, -1), (40, 20, -1), (0, 20, -1))
box("kerb", 0, 13.7, 0, 6, 14, 0.15)
box("kerb", 8, 13.7, 0, 17.8, 14, 0.15)
box("kerb", 21.2, 13.7, 0, 40, 14, 0.15)

# A bridge: stairs at both ends, a deck that one can row under, railings.
steps("bridge", 18, 21, 10.4, 0.3, 0.2, 12)
steps("bridge", 18, 21, 23.6, -0.3, 0.2, 12)
box("bridge", 18, 14, 2.2, 21, 20, 2.4)
for x in (17.9, 21.0):
    box("railing", x, 13.9, 2.2, x + 0.1, 20.1, 3.3)

# Jetties, a step below the quay, on posts.
for x, length in ((6, 3.0), (30, 2.2)):
    box("jetty", x, 14, -0.35, x + 2, 14 + length, -0.2)
    for post in (x + 0.1, x + 1.7):
        box("jetty", post, 14 + length - 0.3, -2, post + 0.2, 14 + length - 0.1, -0.35)

# Stalls: a counter, four posts, an awning overhead.
for x, y in ((3, 9), (8, 9), (13, 9), (4, 26), (10, 26), (26, 26), (32, 26)):
    box("stall", x, y, 0, x + 2.4, y + 0.8, 1.0)
    for px in (x, x + 2.3):
        for py in (y - 1.2, y + 0.7):
            box("stall", px, py, 0, px + 0.1, py + 0.1, 2.3)
    box("awning", x - 0.2, y - 1.4, 2.3, x + 2.6, y + 1.0, 2.36)

# The customs shed: a solid block with stairs up to its roof.
box("shed", 20, 1, 0, 25, 7, 3.0)
steps("shed", 18.6, 20, 1.4, 0.3, 0.2, 15)
box("shed", 18.6, 5.9, 0, 20, 7, 3.0)

# A store beside it, with an alley between them; one gets up by a ladder.
box("store", 14.4, 2, 0, 17.4, 7, 3.0)

# The house: floors at 0 and at 3 m, a door to the quay with a leaf, an open one above the gap to the shed, and stairs
# along the eastern wall.
W = 0.25
box("house", 27, 2, 0, 27 + W, 10, 2.8)  # western wall, ground floor
box("house", 27, 2, 3, 27 + W, 3.4, 5.8)  # and upper floor, with the door
box("house", 27, 4.4, 3, 27 + W, 10, 5.8)
box("house", 27, 3.4, 5.2, 27 + W, 4.4, 5.8)
for z in (0, 3):
    box("house", 37 - W, 2, z, 37, 10, z + 2.8)  # eastern wall
    box("house", 27, 2, z, 37, 2 + W, z + 2.8)  # southern wall
box("house", 27, 10 - W, 3, 37, 10, 5.8)  # northern wall, upper floor
box("house", 27, 10 - W, 0, 31, 10, 2.8)  # and ground floor, with the door
box("house", 32.2, 10 - W, 0, 37, 10, 2.8)
box("house", 31, 10 - W, 2.2, 32.2, 10, 2.8)
box("house", 27, 2, 2.8, 35.4, 10, 3.0)  # upper floor, with a well for the stairs
box("house", 35.4, 2, 2.8, 37, 3.2, 3.0)
box("house", 35.4, 8.6, 2.8, 37, 10, 3.0)
steps("house", 35.5, 37 - W, 8.3, -0.3, 0.2, 15)  # northwards at the foot, up towards the south
box("house", 35.5, 3.2, 0, 37 - W, 3.8, 3.0)
box("leaf", 31, 9.8, 0, 32.2, 9.95, 2.2)
box("roof", 26.8, 1.8, 5.8, 37.2, 10.2, 6.0)
box("house", 29.5, 5.2, 0, 31, 6.2, 0.75)  # a table below, and a cupboard above
box("house", 28, 8.8, 3, 30, 9.6, 4.6)

# Crates to hop on, and a pile.
for x, y, size, height in ((12, 4, 1.0, 0.5), (13.2, 4.1, 0.9, 0.9), (12.5, 5.2, 0.8, 0.4), (8, 3, 1.2, 1.2),
                           (22, 28, 1.0, 1.0), (23.1, 28.3, 1.0, 0.5), (15, 30, 1.4, 1.4)):
    box("crate", x, y, 0, x + size, y + size, height)

# Lanterns on strings: nobody bumps into them.
for x in range(2, 38, 4):
    box("lantern", x, 12.4, 1.5, x + 0.3, 12.7, 1.9)
    box("lantern", x, 21.4, 1.5, x + 0.3, 21.7, 1.9)

data, views, accessors, meshes, places = b"", [], [], [], []
for name, quads in nodes.items():
    corners, indices = [], []
    for corners_of in quads:
        first = len(corners)
        corners += [(x, z, -y) for x, y, z in corners_of]
        indices += [first, first + 1, first + 2, first, first + 2, first + 3]
    floats = b"".join(struct.pack("<3f", *corner) for corner in corners)
    shorts = b"".join(struct.pack("<H", index) for index in indices)
    low = [min(corner[i] for corner in corners) for i in range(3)]
    high = [max(corner[i] for corner in corners) for i in range(3)]
    for chunk, target in ((floats, 34962), (shorts, 34963)):
        views.append({"buffer": 0, "byteOffset": len(data), "byteLength": len(chunk), "target": target})
        data += chunk + b"\0" * (-len(chunk) % 4)
    accessors.append({"bufferView": len(views) - 2, "componentType": 5126, "count": len(corners), "type": "VEC3",
                      "min": low, "max": high})
    accessors.append({"bufferView": len(views) - 1, "componentType": 5123, "count": len(indices), "type": "SCALAR"})
    meshes.append({"name": name, "primitives": [{"attributes": {"POSITION": len(accessors) - 2},
                                                 "indices": len(accessors) - 1}]})
    places.append({"name": name, "mesh": len(meshes) - 1})

level = {
    "asset": {"version": "2.0", "generator": "lantern_quay.py"},
    "scene": 0,
    "scenes": [{"name": "Lantern Quay", "nodes": list(range(len(places)))}],
    "nodes": places,
    "meshes": meshes,
    "accessors": accessors,
    "bufferViews": views,
    "buffers": [{"byteLength": len(data),
                 "uri": "data:application/octet-stream;base64," + base64.b64encode(data).decode()}],
}
with open("lantern-quay.gltf", "w", encoding="utf-8") as file:
    json.dump(level, file, indent=1)
    file.write("\n")
print(f"lantern-quay.gltf: {sum(len(quads) for quads in nodes.values()) * 2} triangles, {len(nodes)} nodes")
