"""IIIF: pages and their pictures as any viewer reads them, and what was found on them (https://iiif.io/api/)."""
