#include "register_words.h"

namespace quillhaven {

const std::vector<const char*> kDistricts{"Harbour",      "Old Quill", "Inkwell Rise", "Paperfield",
                                          "Vellum Green", "Saltmarsh", "Gallows Hill", "Blottings",
                                          "Fenwater",     "Northpen",  "Sandbox",      "Ledger Side"};
const std::vector<const char*> kStreetFirst{
    "Anchor",   "Basin",    "Cooper's",  "Drawbridge", "Eelpie",     "Foundry",   "Gannet", "Hawser",
    "Inkpot",   "Jetty",    "Kelp",      "Lantern",    "Mooring",    "Nib",       "Oakum",  "Parchment",
    "Quayside", "Ropewalk", "Sailcloth", "Tallow",     "Underhill",  "Vintner's", "Wherry", "Yardarm",
    "Blotter",  "Candle",   "Dovecote",  "Ember",      "Ferryman's", "Goosefoot"};
const std::vector<const char*> kStreetLast{"Lane",  "Street", "Row",   "Quay",   "Walk",
                                           "Close", "Rise",   "Court", "Avenue", "Steps"};
const std::vector<Species> kSpecies{{"Tilia cordata", "small-leaved lime", 25},
                                    {"Tilia platyphyllos", "large-leaved lime", 30},
                                    {"Acer campestre", "field maple", 15},
                                    {"Acer platanoides", "Norway maple", 22},
                                    {"Acer pseudoplatanus", "sycamore", 28},
                                    {"Quercus robur", "English oak", 28},
                                    {"Quercus petraea", "sessile oak", 28},
                                    {"Fraxinus excelsior", "ash", 30},
                                    {"Platanus x hispanica", "London plane", 30},
                                    {"Aesculus hippocastanum", "horse chestnut", 25},
                                    {"Sorbus aucuparia", "rowan", 12},
                                    {"Sorbus intermedia", "Swedish whitebeam", 12},
                                    {"Betula pendula", "silver birch", 20},
                                    {"Carpinus betulus", "hornbeam", 20},
                                    {"Fagus sylvatica", "beech", 30},
                                    {"Prunus avium", "wild cherry", 18},
                                    {"Ulmus minor", "field elm", 20},
                                    {"Alnus glutinosa", "alder", 20},
                                    {"Salix alba", "white willow", 22},
                                    {"Ginkgo biloba", "maidenhair tree", 20},
                                    {"Robinia pseudoacacia", "false acacia", 20},
                                    {"Corylus colurna", "Turkish hazel", 18},
                                    {"Gleditsia triacanthos", "honey locust", 18},
                                    {"Liquidambar styraciflua", "sweet gum", 18},
                                    {"Pinus sylvestris", "Scots pine", 25},
                                    {"Taxus baccata", "yew", 12},
                                    {"Malus sylvestris", "crab apple", 8},
                                    {"Pyrus calleryana", "ornamental pear", 12}};
const std::vector<const char*> kCrews{"Alder", "Bramble", "Catkin", "Drey", "Elder", "Fescue", "Gorse", "Heath", "Ivy"};
const std::vector<const char*> kRemarks{"deadwood in the crown",
                                        "root plate lifted, look again",
                                        "cavity at 2 m",
                                        "bark damaged by a van",
                                        "ivy removed",
                                        "fungus at the base",
                                        "stake can go",
                                        "leans towards the road",
                                        "healthy",
                                        "crown reduced last winter",
                                        "nesting box",
                                        "duplicate"};
const std::vector<const char*> kTasks{"Crown lift", "Deadwood removal", "Fell and grind stump", "Formative pruning",
                                      "Water",      "Remove stake",     "Inspect by climbing",  "Replace tree grille"};

}  // namespace quillhaven
