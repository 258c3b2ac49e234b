import"./chunk-TV3N567T.js";import"./chunk-ZNMYXPY5.js";import"./chunk-EFVE66EQ.js";
