#include "rigpulse/reading.h"

const char *rp_quality_text(rp_quality quality)
{
    static const char *const text[RP_QUALITIES] = {
#define RP_QUALITY_TEXT(name, word, words) words,
        RP_QUALITY_LIST(RP_QUALITY_TEXT)
#undef RP_QUALITY_TEXT
    };
    return quality < RP_QUALITIES ? text[quality] : "unknown quality";
}

const char *rp_quality_word(rp_quality quality)
{
    static const char *const word[RP_QUALITIES] = {
#define RP_QUALITY_WORD(name, one, text) one,
        RP_QUALITY_LIST(RP_QUALITY_WORD)
#undef RP_QUALITY_WORD
    };
    return quality < RP_QUALITIES ? word[quality] : "?";
}
