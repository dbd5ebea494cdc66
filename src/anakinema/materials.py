"""Densities of usual materials, in kg/m³: rounded, as tables of material properties have them (from memory); what a
document says of a material of the same name comes first."""

DENSITIES: dict[str, float] = {
    "steel": 7850.0, "stainless-steel": 7900.0, "cast-iron": 7200.0, "aluminium": 2700.0, "brass": 8500.0,
    "bronze": 8800.0, "copper": 8960.0, "titanium": 4430.0, "zinc": 7140.0, "POM": 1410.0, "PA6": 1140.0,
    "PE-HD": 950.0, "PMMA": 1180.0, "PVC": 1400.0, "PLA": 1240.0, "ABS": 1050.0, "rubber": 1200.0, "glass": 2500.0,
    "birch-plywood": 680.0, "beech": 720.0, "oak": 700.0, "pine": 520.0, "MDF": 750.0, "board": 900.0,
}  # fmt: skip
"""By name; of woods and board at common moisture, where they vary by a tenth."""
