"""Gaps: which can be walked, which only sprinted, and by how much."""

import haptos

edges = [(0, 200, 0), (270, 400, 0), (540, 700, 40), (900, 1000, 0)]
level = haptos.Level(
    player={"at": [100, 14]},
    pieces=[
        {"name": f"shelf {number}", "shape": {"corners": [left, top - 16, right, top]}}
        for number, (left, right, top) in enumerate(edges)
    ],
)

if __name__ == "__main__":
    table = haptos.gaps(level)
    print(table[["start", "goal", "gap", "rise", "gait", "margin", "needs"]].round(3).to_string(index=False))
