"""The made-up household of Skarfell: two cars, a barn, three tariffs of one co-operative, frost tonight."""
