var o=e=>document.getElementById(e),c=e=>document.getElementById(e),l=e=>document.querySelector(e),n=e=>[...document.querySelectorAll(e)].map(t=>t);export{o as a,c as b,l as c,n as d};
