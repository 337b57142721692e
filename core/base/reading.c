#include "rigpulse/reading.h"

const char *rp_quality_text(rp_quality quality)
{
    static const char *const text[RP_QUALITIES] = {
#define RP_QUALITY_TEXT(name, words) words,
        RP_QUALITY_LIST(RP_QUALITY_TEXT)
#undef RP_QUALITY_TEXT
    };
    return quality < RP_QUALITIES ? text[quality] : "unknown quality";
}
