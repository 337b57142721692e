#include "rigpulse/drive/claim.h"

const char *rp_rank_text(uint8_t rank)
{
    static const char *const text[RP_RANKS] = {
#define RP_RANK_TEXT(name, words) words,
        RP_RANK_LIST(RP_RANK_TEXT)
#undef RP_RANK_TEXT
    };
    return rank < RP_RANKS ? text[rank] : "unknown rank";
}
