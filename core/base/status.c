/* The names and texts of the status codes. */
#include "rigpulse/status.h"

const char *rgp_status_name(rgp_status status)
{
    switch (status) {
#define RGP_STATUS_CASE(name, value, text) \
    case RGP_##name:                       \
        return #name;
        RGP_STATUS_LIST(RGP_STATUS_CASE)
#undef RGP_STATUS_CASE
    }
    return "E_UNKNOWN";
}

const char *rgp_status_text(rgp_status status)
{
    switch (status) {
#define RGP_STATUS_CASE(name, value, text) \
    case RGP_##name:                       \
        return text;
        RGP_STATUS_LIST(RGP_STATUS_CASE)
#undef RGP_STATUS_CASE
    }
    return "unknown status";
}
