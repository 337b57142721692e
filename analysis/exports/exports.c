/* The formats, in one table. */
#include "exports.h"

#include <string.h>

const rgp_export_kind rgp_export_kinds[] = {
    {".vcd", "IEEE 1364 VCD, for wave viewers: switches as wires, numbers as reals, names as strings", false,
     rgp_export_vcd},
    {".sqlite", "an SQLite file: rows, events, a view for each signal", false, rgp_export_sqlite},
    {".json", "one JSON document: columns, rows, events", false, rgp_export_json},
    {".wav", "one column as a sound (--column)", true, rgp_export_wav},
    {0},
};

const rgp_export_kind *rgp_export_kind_of(const char *path)
{
    for (const rgp_export_kind *k = rgp_export_kinds; k->ending; k++) {
        if (g_str_has_suffix(path, k->ending) && strlen(path) > strlen(k->ending)) {
            return k;
        }
    }
    return NULL;
}
