#include "rigpulse/status.h"

const char *rp_status_name(rp_status status)
{
    switch (status) {
#define RP_STATUS_CASE(name, value, text) \
    case RP_##name:                       \
        return #name;
        RP_STATUS_LIST(RP_STATUS_CASE)
#undef RP_STATUS_CASE
    }
    return "E_UNKNOWN";
}

const char *rp_status_text(rp_status status)
{
    switch (status) {
#define RP_STATUS_CASE(name, value, text) \
    case RP_##name:                       \
        return text;
        RP_STATUS_LIST(RP_STATUS_CASE)
#undef RP_STATUS_CASE
    }
    return "unknown status";
}
